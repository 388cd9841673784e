// The due river: the pay date is moved by keys or dragged; Shift moves the day of paying again. The server works the rest out.
'use strict';
function riverMove(days, which) {
    const river = document.querySelector('#river');
    const field = document.querySelector(which === 'again' ? '#again_on' : '#pay_date');
    if (!river || !field || !days) return;
    const day = new Date(`${river.dataset[which]}T00:00:00Z`);
    day.setUTCDate(day.getUTCDate() + days);
    const iso = day.toISOString().slice(0, 10);
    river.dataset[which] = iso;
    field.value = iso;
    field.form.dispatchEvent(new CustomEvent('moved', { bubbles: true }));
}
document.addEventListener('keydown', (e) => {
    if (!document.activeElement || document.activeElement.id !== 'river' || !/^Arrow(Left|Right)$/.test(e.key)) return;
    e.preventDefault();
    riverMove((e.key === 'ArrowLeft' ? -1 : 1) * (e.ctrlKey ? 7 : 1), e.shiftKey ? 'again' : 'pay');
});
document.addEventListener('pointerdown', (e) => {
    const grip = e.target.closest('#river [data-drag]');
    if (!grip) return;
    e.preventDefault();
    const river = grip.closest('svg');
    const scale = river.viewBox.baseVal.width / river.getBoundingClientRect().width;
    const days = (at) => Math.round(((at.clientX - e.clientX) * scale) / Number(river.dataset.perDay));
    const follow = (at) => grip.setAttribute('transform', `translate(${days(at) * Number(river.dataset.perDay)} 0)`);
    document.addEventListener('pointermove', follow);
    document.addEventListener(
        'pointerup',
        (at) => {
            document.removeEventListener('pointermove', follow);
            riverMove(days(at), 'pay');
        },
        { once: true },
    );
});
let onRiver = false;
document.addEventListener('htmx:beforeSwap', () => {
    onRiver = document.activeElement !== null && document.activeElement.id === 'river';
});
document.addEventListener('htmx:afterSettle', () => {
    if (onRiver) {
        const river = document.querySelector('#river');
        if (river) river.focus({ preventScroll: true });
        onRiver = false;
    }
});
// a button that sends another form's fields along
document.addEventListener(
    'submit',
    (e) => {
        const from = e.submitter && e.submitter.dataset.withForm;
        if (!from) return;
        new FormData(document.querySelector(`#${from}`)).forEach((value, name) => {
            const field = document.createElement('input');
            field.type = 'hidden';
            field.name = name;
            field.value = value;
            if (name !== 'habit') e.target.append(field);
        });
    },
    true,
);
// starting from a habit takes its criteria whole
document.addEventListener(
    'change',
    (e) => {
        if (e.target.id === 'habit' && e.target.form.id === 'ask' && e.target.value) {
            e.stopImmediatePropagation();
            location.href = `${e.target.form.getAttribute('action')}?habit=${encodeURIComponent(e.target.value)}`;
        }
    },
    true,
);
