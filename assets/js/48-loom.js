// A pairing set: both rails as ticks, what belongs together joined, dashed while it is asked about; y and x answer.
'use strict';
function drawLoom(canvas, data) {
    const ratio = window.devicePixelRatio || 1;
    const width = canvas.clientWidth || 1000;
    const height = canvas.clientHeight || 150;
    canvas.width = width * ratio;
    canvas.height = height * ratio;
    const g = canvas.getContext('2d');
    g.scale(ratio, ratio);
    const style = getComputedStyle(document.documentElement);
    const tone = (name) => style.getPropertyValue(name).trim();
    const asked = new Set(data.asked);
    const rail = { left: 14, right: height - 14 };
    const at = { left: new Map(), right: new Map() };
    ['left', 'right'].forEach((side) => {
        const rows = data[side];
        const step = width / Math.max(1, rows.length);
        rows.forEach(([pair, tied], k) => {
            const x = (k + 0.5) * step;
            // what is over stands out by having no thread
            g.fillStyle = pair ? tone('--ink') : tied ? tone('--ochre') : tone('--copper');
            const tall = pair ? 7 : 12;
            g.fillRect(
                x - Math.max(0.5, Math.min(1.5, step / 4)),
                rail[side] - tall / 2,
                Math.max(1, Math.min(3, step / 2)),
                tall,
            );
            if (pair) {
                if (!at[side].has(pair)) at[side].set(pair, []);
                at[side].get(pair).push(x);
            }
        });
    });
    at.left.forEach((lefts, pair) => {
        const rights = at.right.get(pair) || [];
        g.strokeStyle = asked.has(pair) ? tone('--ochre') : tone('--pine');
        g.setLineDash(asked.has(pair) ? [4, 3] : []);
        g.lineWidth = at.left.size > 400 ? 0.4 : 1;
        lefts.forEach((a) =>
            rights.forEach((b) => {
                g.beginPath();
                g.moveTo(a, rail.left + 6);
                g.bezierCurveTo(a, height / 2, b, height / 2, b, rail.right - 6);
                g.stroke();
            }),
        );
        if (at.left.size <= 60 && rights.length) {
            g.fillStyle = tone('--soft');
            g.font = '10px Commissioner, sans-serif';
            g.fillText(
                data.rules[pair] ? String(data.rules[pair]) : 'hand',
                (lefts[0] + rights[0]) / 2 + 2,
                height / 2,
            );
        }
    });
}
async function loom() {
    const canvas = document.querySelector('canvas[data-loom]');
    if (!canvas) return;
    const answer = await fetch(canvas.dataset.loom).catch(() => null);
    if (!answer || !answer.ok) return;
    const data = await answer.json();
    drawLoom(canvas, data);
    window.addEventListener('resize', () => drawLoom(canvas, data));
}
document.addEventListener('DOMContentLoaded', loom);
document.addEventListener('keydown', (e) => {
    const row = e.target.closest && e.target.closest('tr[data-asked]');
    if (!row || e.target !== row || e.ctrlKey || e.altKey || e.metaKey || document.body.dataset.keys === 'off') return;
    const answer = { y: 'yes', x: 'no' }[e.key];
    const button = answer && row.querySelector(`button[value="${answer}"]`);
    if (button) {
        e.preventDefault();
        button.click();
    }
});
