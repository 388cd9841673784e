// What came: Space takes what stands in grey, Alt A in every row; the arrows go from row to row.
'use strict';
const takers = () => [...document.querySelectorAll('[data-takes]')].filter((f) => f.offsetParent !== null);
function takeGrey(field) {
    if (field.value !== '' || !field.placeholder) return;
    field.value = field.placeholder;
    field.dispatchEvent(new Event('input', { bubbles: true }));
}
document.addEventListener('keydown', (e) => {
    if (e.altKey && e.key.toLowerCase() === 'a' && takers().length) {
        e.preventDefault();
        takers().forEach(takeGrey);
        return;
    }
    if (!e.target.matches || !e.target.matches('[data-takes]') || e.ctrlKey || e.altKey) return;
    const all = takers();
    const next = { ArrowDown: 1, ArrowUp: -1, ' ': 1 }[e.key];
    if (!next) return;
    e.preventDefault();
    if (e.key === ' ') takeGrey(e.target);
    const to = all[all.indexOf(e.target) + next];
    if (to) {
        to.focus();
        to.select();
    }
});
