// The outlook: a payment is moved by keys or dragged; the server works out what that would do.
'use strict';
function outlookMove(mark, days) {
    const form = document.querySelector('#outlook-asked');
    if (!form || !days) return;
    const day = new Date(`${mark.dataset.day}T00:00:00Z`);
    day.setUTCDate(day.getUTCDate() + days);
    const name = `move[${mark.dataset.key}]`;
    let field = form.querySelector(`[name="${name}"]`);
    if (!field) {
        field = document.createElement('input');
        field.type = 'hidden';
        field.name = name;
        form.append(field);
    }
    field.value = mark.dataset.day = day.toISOString().slice(0, 10);
    mark.setAttribute('aria-valuetext', field.value);
    const by = Number(document.querySelector('#outlook').dataset.perDay);
    mark.dataset.shift = String(Number(mark.dataset.shift || 0) + days);
    mark.setAttribute('transform', `translate(${Number(mark.dataset.shift) * by} 0)`);
    clearTimeout(outlookMove.later);
    outlookMove.later = setTimeout(() => {
        sessionStorage.setItem('outlook-mark', mark.dataset.key);
        form.requestSubmit();
    }, 350);
}
document.addEventListener('keydown', (e) => {
    const mark = e.target.closest && e.target.closest('#outlook [data-key]');
    if (!mark || !/^Arrow(Left|Right)$/.test(e.key)) return;
    e.preventDefault();
    outlookMove(mark, (e.key === 'ArrowLeft' ? -1 : 1) * (e.ctrlKey ? 7 : 1));
});
document.addEventListener('pointerdown', (e) => {
    const mark = e.target.closest('#outlook [data-key]');
    if (!mark) return;
    e.preventDefault();
    mark.focus();
    const svg = mark.closest('svg');
    const scale = svg.viewBox.baseVal.width / svg.getBoundingClientRect().width;
    const by = Number(svg.dataset.perDay);
    const days = (at) => Math.round(((at.clientX - e.clientX) * scale) / by);
    const follow = (at) => mark.setAttribute('transform', `translate(${days(at) * by} 0)`);
    document.addEventListener('pointermove', follow);
    document.addEventListener(
        'pointerup',
        (at) => {
            document.removeEventListener('pointermove', follow);
            outlookMove(mark, days(at));
        },
        { once: true },
    );
});
document.addEventListener('DOMContentLoaded', () => {
    const key = sessionStorage.getItem('outlook-mark');
    const mark = key && document.querySelector(`#outlook [data-key="${key}"]`);
    sessionStorage.removeItem('outlook-mark');
    if (mark) mark.focus({ preventScroll: true });
});
