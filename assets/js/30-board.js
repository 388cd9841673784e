// The placement board: keys that place, and ribbons drawn between the real rows. Amounts are whole minor units.
'use strict';
const board = () => document.querySelector('[data-board]');
const field = (row, what) => row.querySelector(`input[name^="${what}["]`);
function tell() { const b = board(); if (b) htmx.trigger(b.closest('form'), 'placed'); }
function decimal(minor, digits) { const s = String(Math.abs(minor)).padStart(digits + 1, '0'); return digits ? `${s.slice(0, -digits)}.${s.slice(-digits)}` : s; }
function place(row) {
  const b = board();
  const digits = Number(b.dataset.digits);
  const open = Number(row.dataset.open);
  const discount = Number(row.dataset.discount || 0);
  const credit = row.dataset.credit === '1';
  const left = Number(b.dataset.left);
  let gross = open;
  let taken = discount;
  if (!credit && left < open - discount) { gross = Math.max(0, left); taken = 0; }
  if (gross === 0) return;
  field(row, 'placed').value = decimal(gross, digits);
  if (field(row, 'discount')) field(row, 'discount').value = taken > 0 ? decimal(taken, digits) : '';
  // what is left is known at once, so that the next key does not wait for the server
  b.dataset.left = String(left + (credit ? gross : taken - gross));
  tell();
}
function takeBack(row) { ['placed', 'discount', 'write_off'].forEach((w) => { const f = field(row, w); if (f) f.value = ''; }); tell(); }
document.addEventListener('keydown', (e) => {
  const b = board();
  if (!b) return;
  const row = e.target.closest && e.target.closest('tr[data-row]');
  if (!row || e.ctrlKey || e.altKey || e.metaKey) return;
  const inField = e.target.matches('input');
  if (e.key === 'Enter' && !inField) { e.preventDefault(); place(row); return; }
  if ((e.key === 'Delete' || e.key === 'Backspace') && !inField) { e.preventDefault(); takeBack(row); return; }
  if (/^[0-9.]$/.test(e.key) && !inField && e.key !== '0') { e.preventDefault(); const f = field(row, 'placed'); f.focus(); f.value = e.key; f.dispatchEvent(new Event('input', { bubbles: true })); return; }
  if ((e.key === 'ArrowLeft' || e.key === 'ArrowRight') && !inField) {
    const side = document.querySelector(e.key === 'ArrowLeft' ? '[data-side=money] tr[data-row]' : '[data-side=owed] tr[data-row]');
    if (side) { e.preventDefault(); side.focus(); }
  }
  if (e.key === 's' && !inField) { const f = field(row, 'write_off'); if (f) { e.preventDefault(); f.focus(); } }
}, true);
document.addEventListener('click', (e) => {
  if (e.target.closest('[data-clear-board]')) { document.querySelectorAll('[data-board] tr[data-row]').forEach((r) => ['placed', 'discount', 'write_off'].forEach((w) => { const f = field(r, w); if (f) f.value = ''; })); tell(); }
  const button = e.target.closest('[data-place]');
  if (button) place(button.closest('tr'));
});

function ribbons() {
  const b = board();
  const svg = b && b.querySelector('.ribbons');
  if (!svg) return;
  const box = svg.getBoundingClientRect();
  svg.replaceChildren();
  if (!box.height) return;
  svg.setAttribute('viewBox', `0 0 64 ${box.height}`);
  const sources = [...b.querySelectorAll('[data-side=money] [data-from]')].map((r) => ({ y: r.getBoundingClientRect(), left: Number(r.dataset.from), all: Number(r.dataset.from), credit: r.dataset.credit === '1', used: 0 }));
  const most = Math.max(1, sources.reduce((a, s) => a + s.all, 0));
  const width = (amount) => Math.max(2, 40 * amount / most);
  let k = 0;
  b.querySelectorAll('[data-side=owed] tr[data-net]').forEach((row) => {
    let need = Number(row.dataset.net);
    const r = row.getBoundingClientRect();
    let y2 = r.top - box.top + 5;
    while (need > 0 && k < sources.length) {
      const s = sources[k];
      const part = Math.min(need, s.left);
      if (part > 0) {
        const w = width(part);
        const y1 = s.y.top - box.top + 5 + s.used;
        const path = document.createElementNS('http://www.w3.org/2000/svg', 'path');
        path.setAttribute('d', `M0 ${y1}C32 ${y1} 32 ${y2} 64 ${y2}v${w}C32 ${y2 + w} 32 ${y1 + w} 0 ${y1 + w}Z`);
        if (s.credit) path.setAttribute('class', 'credit');
        svg.append(path);
        s.used += w; s.left -= part; need -= part; y2 += w;
      }
      if (s.left <= 0) k += 1;
    }
  });
}
window.addEventListener('load', ribbons);
window.addEventListener('resize', ribbons);
document.addEventListener('htmx:afterSettle', ribbons);
