// Fields: what the server understood stands in them; a new line when the last one is used.
'use strict';
document.addEventListener('htmx:afterSwap', () => {
    document.querySelectorAll('[data-understood]').forEach((el) => {
        const field = document.querySelector(`[name="${CSS.escape(el.dataset.understood)}"]`);
        if (!field || field === document.activeElement) return;
        if (field.value.trim() !== '') {
            field.value = el.dataset.value;
            // what stands in the field need not stand under it
            if (el.closest('.note-line')) el.hidden = true;
        }
        // an empty field says what it stands for, where it did before
        else if (field.placeholder) field.placeholder = el.dataset.value;
    });
    const rest = document.querySelector('[data-rest]');
    const empty = lineAmounts().find((f) => f.value === '');
    noRest();
    if (rest && rest.dataset.rest && empty) empty.placeholder = rest.dataset.rest;
});
const lineAmounts = () => [...document.querySelectorAll('table.lines:not(.cells) input[name$="[amount]"]')];
function noRest() {
    lineAmounts().forEach((f) => {
        f.placeholder = '';
    });
}
// what is left changes with every key; until the server says how much, there is nothing to take
document.addEventListener('input', (e) => {
    if (e.target.matches('[name$="[amount]"], [name$="[tax_code]"], #stated_total, [name^="tax["]')) noRest();
});
document.addEventListener('keydown', (e) => {
    // Tab takes the rest that stands in grey
    if (
        e.key === 'Tab' &&
        !e.shiftKey &&
        e.target.matches('table.lines input[name$="[amount]"]') &&
        e.target.value === '' &&
        e.target.placeholder
    ) {
        e.target.value = e.target.placeholder;
        e.target.dispatchEvent(new Event('change', { bubbles: true }));
    }
});
// a row that is begun is followed by an empty one; Tab through an empty one leaves the lines
function followed(e) {
    const row = e.target.closest && e.target.closest('table.lines:not(.cells):not(.still) tbody tr');
    if (row && !row.nextElementSibling && e.target.value !== '') rowAfter(row);
}
function rowAfter(row) {
    const copy = row.cloneNode(true);
    const n = row.parentElement.children.length;
    copy.querySelectorAll('input, select').forEach((f) => {
        f.name = f.name.replace(/^(\w+)\[\d+\]/, `$1[${n}]`);
        if (f.id) f.id = f.id.replace(/\d+/, n);
        if (f.matches('input')) {
            f.value = '';
            f.placeholder = '';
        } else if (!f.matches('[data-step]')) f.selectedIndex = 0;
        else
            f.selectedIndex = [...row.querySelectorAll('select')].find((s) =>
                s.name.endsWith(f.name.replace(/^\w+\[\d+\]/, '')),
            ).selectedIndex;
        f.removeAttribute('aria-invalid');
        f.setAttribute('aria-label', f.getAttribute('aria-label').replace(/\d+/, n + 1));
    });
    copy.querySelectorAll('.wrong, .pick, .note-line, .match-note').forEach((el) => el.remove());
    row.after(copy);
}
document.addEventListener('input', followed);
document.addEventListener('change', followed);

document.addEventListener('change', (e) => {
    if (e.target.matches('[data-step]'))
        e.target.nextElementSibling.classList.toggle('gap-off', e.target.value !== 'month');
});
// a line that is begun takes the party's tax code and analysis, where the clerk can see and change them
document.addEventListener('focusin', (e) => {
    const row = e.target.closest && e.target.closest('form#invoice table.lines:not(.cells) tbody tr');
    const from = document.querySelector('[data-defaults]');
    if (!row || !from || row.dataset.begun || [...row.querySelectorAll('input')].some((f) => f.value)) return;
    row.dataset.begun = '1';
    Object.entries(JSON.parse(from.dataset.defaults)).forEach(([name, value]) => {
        const f = row.querySelector(`[name$="[${name}]"]`);
        if (f) f.value = value;
    });
});
