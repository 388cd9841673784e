// Lists: where their heads stay while they scroll, and what the picked rows come to.
'use strict';
function listTop() {
    const bar = document.querySelector('.top');
    const top = bar && getComputedStyle(bar).position === 'sticky' ? bar.offsetHeight : 0;
    const head = document.querySelector('.list-top');
    document.documentElement.style.setProperty('--top', `${top}px`);
    document.documentElement.style.setProperty('--list-top', `${top + (head ? head.offsetHeight : 0)}px`);
}
window.addEventListener('load', listTop);
window.addEventListener('resize', listTop);

// whole minor units add up exactly; each currency by itself
function pickedSum() {
    const said = document.querySelector('.foot .said');
    const rows = [...document.querySelectorAll('tr.chosen[data-amount]')];
    document.querySelectorAll('.picked-sum').forEach((el) => el.remove());
    if (!said || !rows.length) return;
    const sums = new Map();
    rows.forEach((r) => {
        const [sum] = sums.get(r.dataset.currency) || [0n];
        sums.set(r.dataset.currency, [sum + BigInt(r.dataset.amount || '0'), Number(r.dataset.digits || 2)]);
    });
    const text = [...sums].map(
        ([currency, [sum, digits]]) =>
            `${sum < 0n ? '\u2212' : ''}${decimal(sum < 0n ? -sum : sum, digits)} ${currency}`,
    );
    const span = document.createElement('span');
    span.className = 'picked-sum';
    span.setAttribute('role', 'status');
    span.textContent = `${rows.length} picked: ${text.join(', ')}`;
    said.prepend(span);
}
document.addEventListener('change', (e) => {
    const row = e.target.matches('input[type=checkbox]') && e.target.closest('tr[data-amount]');
    if (!row) return;
    row.classList.toggle('chosen', e.target.checked);
    pickedSum();
});

// on paper the filters stand as text
window.addEventListener('beforeprint', () => {
    const place = document.querySelector('[data-print-filters]');
    if (!place) return;
    const words = [...document.querySelectorAll('form.filters .in, form.head .in, #ask .in')]
        .filter((f) => f.value.trim() !== '' && f.type !== 'hidden')
        .map((f) => {
            const label = f.labels && f.labels[0] ? f.labels[0].textContent.trim() : f.name;
            const value = f.matches('select') ? f.selectedOptions[0].textContent.trim() : f.value;
            return `${label}: ${value}`;
        });
    place.textContent = words.length ? ` · ${words.join(' · ')}` : '';
});

// a row of figures: right and left walk through them, Enter opens the one that has the focus
document.addEventListener('keydown', (e) => {
    if ((e.key !== 'ArrowRight' && e.key !== 'ArrowLeft') || e.ctrlKey || e.altKey || e.metaKey) return;
    const row = e.target.closest && e.target.closest('table.figures tr');
    if (!row || e.target.matches('input, select')) return;
    const figures = [...row.querySelectorAll('a.figure')];
    const next = figures.indexOf(e.target) + (e.key === 'ArrowRight' ? 1 : -1);
    if (!figures.length) return;
    e.preventDefault();
    (figures[next] || (next < 0 ? row : figures[figures.length - 1])).focus();
});
