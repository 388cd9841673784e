'use strict';
// the keys of this screen, and only those: each stands in the list when its place is on the page
function keysOf(dialog) {
    const on = document.body.dataset.keys !== 'off';
    const there = (selector) => [...document.querySelectorAll(selector)].some((el) => !dialog.contains(el));
    dialog.querySelectorAll('[data-when]').forEach((key) => {
        key.hidden = !there(key.dataset.when) || (key.hasAttribute('data-single') && !on);
    });
    const areas = [...document.querySelectorAll('.rail [data-area]')];
    dialog.querySelectorAll('[data-areas]').forEach((kbd) => {
        kbd.textContent = areas.length > 1 ? `1 – ${areas.length}` : '1';
        kbd.closest('.contents').querySelector('dd').textContent = areas.map((a) => a.textContent.trim()).join(', ');
    });
    [
        ['main', '[data-main-action]'],
        ['next', '[data-next-action]'],
        ['draft', '[data-draft-action]'],
        ['new', '[data-new]'],
    ].forEach(([name, selector]) => {
        const button = document.querySelector(selector);
        const dd = dialog.querySelector(`[data-said-of="${name}"]`);
        if (!button || !dd) return;
        const copy = button.cloneNode(true);
        copy.querySelectorAll('kbd').forEach((k) => k.remove());
        dd.textContent = copy.textContent.trim();
    });
}
