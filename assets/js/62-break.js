// The break line: arrows and clicks go to a day, and what moved the difference on it is listed.
'use strict';
function breakDay(svg, day) {
    const from = Date.parse(svg.dataset.from);
    const span = Number(svg.dataset.span);
    const k = Math.max(0, Math.min(span, Math.round((Date.parse(day) - from) / 86400000)));
    const iso = new Date(from + k * 86400000).toISOString().slice(0, 10);
    const x = 10 + (820 * k) / span;
    svg.querySelector('.at').setAttribute('d', `M${x.toFixed(1)} 5V118`);
    svg.setAttribute('aria-valuenow', String(k));
    if (svg.dataset.day === iso && svg.dataset.placed) return;
    const first = !svg.dataset.placed;
    svg.dataset.placed = '1';
    svg.dataset.day = iso;
    svg.setAttribute('aria-valuetext', iso);
    if (first) return;
    clearTimeout(breakDay.later);
    breakDay.later = setTimeout(() => {
        const url = new URL(svg.dataset.break, window.location.href);
        url.searchParams.set('day', iso);
        htmx.ajax('GET', url.pathname + url.search, { target: '#moved', swap: 'innerHTML' });
    }, 120);
}
document.addEventListener('DOMContentLoaded', () =>
    document.querySelectorAll('[data-break]').forEach((svg) => breakDay(svg, svg.dataset.day)),
);
document.addEventListener('keydown', (e) => {
    const svg = e.target.closest && e.target.closest('[data-break]');
    if (!svg || !['ArrowLeft', 'ArrowRight', 'Home', 'End'].includes(e.key)) return;
    e.preventDefault();
    const steps = svg.dataset.steps.split(' ').filter(Boolean);
    const step = e.key === 'ArrowRight' ? 1 : -1;
    if (e.key === 'Home') breakDay(svg, steps[0] || svg.dataset.from);
    else if (e.key === 'End') breakDay(svg, '2999-12-31');
    else if (e.ctrlKey) {
        const to = step > 0 ? steps.find((d) => d > svg.dataset.day) : steps.filter((d) => d < svg.dataset.day).pop();
        if (to) breakDay(svg, to);
    } else breakDay(svg, new Date(Date.parse(svg.dataset.day) + step * 86400000).toISOString().slice(0, 10));
});
document.addEventListener('click', (e) => {
    const svg = e.target.closest && e.target.closest('[data-break]');
    if (!svg) return;
    const box = svg.getBoundingClientRect();
    const at = ((e.clientX - box.left) / box.width) * 840;
    const k = Math.round(((at - 10) / 820) * Number(svg.dataset.span));
    svg.focus();
    breakDay(svg, new Date(Date.parse(svg.dataset.from) + k * 86400000).toISOString().slice(0, 10));
});
