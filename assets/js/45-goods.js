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
// Matching: what the vendor delivered stands in a dialog, and what is taken of it becomes lines of the invoice.
const matchedBy = '[name$="[delivery_line]"], [name$="[order_line]"]';
const lineFields = () =>
    [...document.querySelectorAll('form#invoice table.lines tbody tr')].flatMap((r) => [
        ...r.querySelectorAll(matchedBy),
    ]);
function matchRows() {
    return [...document.querySelectorAll('#match-rows tbody tr')].filter((r) => !r.hidden);
}
function mark(row, on) {
    const box = row.querySelector('input[type=checkbox]');
    box.checked = on;
    row.classList.toggle('chosen', on);
}
function matchKey(e) {
    const list = matchRows();
    const row = e.target.closest('#match-rows tr');
    const step = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    if (step && list.length) {
        const next = list[Math.max(0, Math.min(list.length - 1, row ? list.indexOf(row) + step : 0))];
        next.focus();
        next.scrollIntoView({ block: 'nearest' });
    } else if (row && e.key === ' ') mark(row, !row.querySelector('input').checked);
    else if (row && e.key === 'a')
        list.filter((r) => r.dataset.group === row.dataset.group).forEach((r) => mark(r, true));
    else if (row && e.key === '*') list.filter((r) => r.dataset.came).forEach((r) => mark(r, true));
    else if (e.key === 'Enter' && !e.ctrlKey && !e.metaKey && e.target.id === 'match-find' && list.length)
        list[0].focus();
    else return;
    e.preventDefault();
    e.stopPropagation();
}
async function openMatch(button) {
    const answer = await fetch(button.dataset.match).catch(() => null);
    if (!answer || !answer.ok) return;
    const dialog = document.createElement('dialog');
    dialog.className = 'match';
    dialog.setAttribute('aria-labelledby', 'match-title');
    dialog.innerHTML = await answer.text();
    const there = lineFields().map((f) => (f.value && f.name.endsWith('[order_line]') ? `o${f.value}` : f.value));
    dialog.querySelectorAll('tbody tr').forEach((r) => {
        if (there.includes(r.dataset.id)) r.remove();
    });
    dialog.addEventListener('close', () => dialog.remove());
    dialog.addEventListener('keydown', matchKey);
    dialog.addEventListener('click', (e) => {
        const row = e.target.closest('#match-rows tbody tr');
        if (row) mark(row, e.target.matches('input') ? e.target.checked : !row.querySelector('input').checked);
    });
    dialog.addEventListener('input', (e) => {
        if (e.target.id !== 'match-find') return;
        const words = e.target.value.toLowerCase().split(/\s+/);
        dialog.querySelectorAll('tbody tr').forEach((r) => {
            r.hidden = !words.every((w) => r.textContent.toLowerCase().includes(w));
        });
    });
    document.body.append(dialog);
    dialog.showModal();
    const first = dialog.querySelector('tbody tr') || dialog.querySelector('[data-dialog-action]');
    first.focus();
}
function takeMatched(dialog) {
    const rows = [...dialog.querySelectorAll('tbody tr')].filter((r) => r.querySelector('input').checked);
    dialog.close();
    const lines = [...document.querySelectorAll('form#invoice table.lines tbody tr')];
    const empty = lines.findIndex(
        (r) => ![...r.querySelectorAll(`[name$="[amount]"], [name$="[text]"], ${matchedBy}`)].some((f) => f.value),
    );
    if (rows.length)
        fillLines(
            rows.map((r) => JSON.parse(r.dataset.line)),
            empty < 0 ? lines.length : empty,
        );
}
document.addEventListener('click', (e) => {
    const open = e.target.closest('[data-match]');
    if (open) openMatch(open);
    if (e.target.closest('[data-match-take]')) takeMatched(e.target.closest('dialog'));
});
document.addEventListener('keydown', (e) => {
    const open = e.altKey && e.key.toLowerCase() === 'm' && document.querySelector('[data-match]');
    if (!open || document.querySelector('dialog[open]')) return;
    e.preventDefault();
    openMatch(open);
});
// what a matched line was agreed at stands under its amount, with what it is more, and how the match is taken off
function matchNote(row, said) {
    const cell = row.querySelector('[name$="[amount]"]').closest('.field');
    const old = cell.querySelector('.match-note');
    if (![...row.querySelectorAll(matchedBy)].some((f) => f.value)) {
        if (old) old.remove();
        return;
    }
    const note = old || document.createElement('span');
    const text = said ? said.textContent.replace(/\s+/g, ' ').trim() : 'matched';
    note.className = `match-note ${said ? said.className : ''}`;
    note.title = said ? said.dataset.of : '';
    if (old) {
        if (note.firstChild.textContent !== `${text} `) note.firstChild.textContent = `${text} `;
        return;
    }
    const off = document.createElement('button');
    off.type = 'button';
    off.className = 'link';
    off.dataset.unmatch = '';
    off.textContent = 'take off';
    note.append(document.createTextNode(`${text} `), off);
    cell.append(note);
}
document.addEventListener('htmx:afterSwap', () => {
    document.querySelectorAll('form#invoice table.lines tbody tr').forEach((row) => {
        const field = row.querySelector(matchedBy);
        const k = field && field.name.match(/\[(\d+)\]/)[1];
        if (field) matchNote(row, document.querySelector(`[data-matched="${k}"]`));
    });
});
document.addEventListener('click', (e) => {
    const row = e.target.closest('[data-unmatch]') && e.target.closest('tr');
    if (!row) return;
    row.querySelectorAll(matchedBy).forEach((f) => {
        f.value = '';
    });
    const amount = row.querySelector('[name$="[amount]"]');
    e.target.closest('.match-note').remove();
    amount.focus();
    amount.dispatchEvent(new Event('change', { bubbles: true }));
});
// an order that came already: Alt I opens what its papers say, and Ctrl Enter there does all three
document.addEventListener(
    'keydown',
    (e) => {
        const part = document.getElementById('at-once');
        if (!part) return;
        if (e.altKey && e.key.toLowerCase() === 'i') {
            e.preventDefault();
            part.open = true;
            part.querySelector('input').focus();
        } else if (e.key === 'Enter' && (e.ctrlKey || e.metaKey) && part.contains(e.target)) {
            e.preventDefault();
            e.stopPropagation();
            part.querySelector('button').click();
        }
    },
    true,
);
