// The placement board: keys that place, and ribbons drawn between the real rows. Amounts are whole minor units.
'use strict';
const board = () => document.querySelector('[data-board]');
const field = (row, what) => row.querySelector(`input[name^="${what}["]`);
function tell() {
    const b = board();
    if (b) htmx.trigger(b.closest('form'), 'placed');
}
function decimal(minor, digits) {
    const s = String(minor)
        .replace('-', '')
        .padStart(digits + 1, '0');
    const whole = (digits ? s.slice(0, -digits) : s).replace(/\B(?=(\d{3})+$)/g, ',');
    return digits ? `${whole}.${s.slice(-digits)}` : whole;
}
// what a key could not do is said where it was pressed
function boardSays(text) {
    const said = document.querySelector('#board-said');
    if (said) said.textContent = text;
}
function place(row) {
    const b = board();
    const number = row.querySelector('[data-place]') ? row.querySelector('[data-place]').textContent : 'This';
    boardSays('');
    if (row.dataset.kept) {
        boardSays(`${number} ${row.dataset.kept}; nothing is placed on it until that is settled.`);
        return;
    }
    // the server places what fits, by the rules of the core; what was meant before its answer came goes along
    const fit = document.querySelector('[name=_fit]');
    const credit = row.dataset.credit === '1';
    if (!credit && fit.value === '' && Number(b.dataset.left) <= 0 && Number(b.dataset.gives) <= 0) {
        boardSays(
            document.querySelector('#amount') && document.querySelector('#amount').value.trim() === ''
                ? 'Type the amount first, or take credits; then Enter places it.'
                : 'Nothing is left to place; take something back first, or raise the amount.',
        );
        return;
    }
    fit.value = fit.value === '' ? row.dataset.row : `${fit.value},${row.dataset.row}`;
    tell();
}
function nextIdea() {
    const idea = document.querySelector('[name=_idea]');
    if (!idea) return;
    // none were found yet: what was typed since may have some
    const next = idea.dataset.count === '0' ? 1 : (Number(idea.dataset.at) + 1) % (Number(idea.dataset.count) + 1);
    if (next === 0) clearBoard();
    else {
        idea.value = String(next);
        tell();
    }
}
function clearBoard() {
    document.querySelectorAll('[data-board] tr[data-row]').forEach((r) =>
        ['placed', 'discount'].forEach((w) => {
            const f = field(r, w);
            if (f) f.value = '';
        }),
    );
    tell();
}
function shelf(row) {
    const loose =
        (row && document.querySelector(`[data-loose="${row.dataset.row}"]`)) ||
        document.querySelector('[data-loose=money]') ||
        document.querySelector('[data-loose]');
    const to = loose && (loose.querySelector('input:checked') || loose.querySelector('input'));
    if (to) to.focus();
}
function takeBack(row) {
    ['placed', 'discount'].forEach((w) => {
        const f = field(row, w);
        if (f) f.value = '';
    });
    tell();
}
document.addEventListener(
    'keydown',
    (e) => {
        const b = board();
        if (!b) return;
        const row = e.target.closest && e.target.closest('tr[data-row]');
        if (e.ctrlKey || e.altKey || e.metaKey) return;
        const inField = e.target.matches('input, select, textarea');
        if (document.body.dataset.keys !== 'off') {
            // no amount has this letter in it, so it needs no way out of the field
            if (e.key === 'i' && (!inField || e.target.id === 'amount')) {
                e.preventDefault();
                nextIdea();
                return;
            }
            if (e.key === 's' && !inField) {
                e.preventDefault();
                shelf(row);
                return;
            }
        }
        if (!row) return;
        if (e.key === 'Enter' && !inField) {
            e.preventDefault();
            place(row);
            return;
        }
        if ((e.key === 'Delete' || e.key === 'Backspace') && !inField) {
            e.preventDefault();
            takeBack(row);
            return;
        }
        if (/^[0-9.]$/.test(e.key) && !inField && e.key !== '0') {
            e.preventDefault();
            const f = field(row, 'placed');
            if (!f) {
                place(row);
                return;
            }
            f.focus();
            f.value = e.key;
            f.dispatchEvent(new Event('input', { bubbles: true }));
            return;
        }
        if ((e.key === 'ArrowLeft' || e.key === 'ArrowRight') && !inField) {
            const side = document.querySelector(
                e.key === 'ArrowLeft' ? '[data-side=money] tr[data-row]' : '[data-side=owed] tr[data-row]',
            );
            if (side) {
                e.preventDefault();
                side.focus();
            }
        }
    },
    true,
);
// finding narrows what stands there; nothing that is placed goes out of sight
function narrow() {
    const find = document.querySelector('[data-board-find]');
    const words = find ? find.value.trim().toLowerCase().split(/\s+/) : [];
    document.querySelectorAll('[data-board] tr[data-row]').forEach((row) => {
        const placed = field(row, 'placed') && field(row, 'placed').value.trim() !== '';
        row.hidden = !placed && !words.every((w) => row.textContent.toLowerCase().includes(w));
    });
    ribbons();
}
['input', 'change'].forEach((kind) =>
    document.addEventListener(
        kind,
        (e) => {
            if (!e.target.matches || !e.target.matches('[data-board-find]')) return;
            e.stopPropagation();
            narrow();
        },
        true,
    ),
);
document.addEventListener('click', (e) => {
    const group = e.target.closest('[data-also-group]');
    if (group) {
        const also = document.querySelector('input[name=also]');
        also.value = [also.value, group.dataset.alsoGroup].filter((c) => c).join(',');
        tell();
    }
    if (e.target.closest('[data-clear-board]')) clearBoard();
    if (e.target.closest('[data-place-all]'))
        document.querySelectorAll('[data-side=owed] tr[data-row]:not([data-kept])').forEach(place);
    if (e.target.closest('[data-idea]')) nextIdea();
    const button = e.target.closest('[data-place]');
    if (button) place(button.closest('tr'));
});

function loose(svg, d) {
    const path = document.createElementNS('http://www.w3.org/2000/svg', 'path');
    path.setAttribute('d', d);
    path.setAttribute('class', 'loose');
    svg.append(path);
}
function ribbons() {
    const b = board();
    const svg = b && b.querySelector('.ribbons');
    if (!svg) return;
    const box = svg.getBoundingClientRect();
    svg.replaceChildren();
    if (!box.height) return;
    svg.setAttribute('viewBox', `0 0 64 ${box.height}`);
    const sources = [...b.querySelectorAll('[data-side=money] [data-from]')].map((r) => ({
        y: r.getBoundingClientRect(),
        left: Number(r.dataset.from),
        all: Number(r.dataset.from),
        credit: r.dataset.credit === '1',
        used: 0,
    }));
    const most = Math.max(
        1,
        sources.reduce((a, s) => a + s.all, 0),
    );
    const width = (amount) => Math.max(2, (40 * amount) / most);
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
                path.setAttribute(
                    'd',
                    `M0 ${y1}C32 ${y1} 32 ${y2} 64 ${y2}v${w}C32 ${y2 + w} 32 ${y1 + w} 0 ${y1 + w}Z`,
                );
                if (s.credit) path.setAttribute('class', 'credit');
                svg.append(path);
                s.used += w;
                s.left -= part;
                need -= part;
                y2 += w;
            }
            if (s.left <= 0) k += 1;
        }
        // what the item stays short of hangs loose
        if (Number(row.dataset.short) > 0) loose(svg, `M64 ${Math.min(y2, r.bottom - box.top - 12)}h-14l-7 5 7 5h14Z`);
    });
    sources
        .filter((s) => s.left > 0 && !s.credit)
        .forEach((s) => {
            const y = s.y.top - box.top + 5 + s.used;
            const w = width(s.left);
            loose(svg, `M0 ${y}h16l8 ${w / 2} -8 ${w / 2}H0Z`);
        });
}
window.addEventListener('load', ribbons);
window.addEventListener('resize', ribbons);
document.addEventListener('htmx:afterSettle', () => (board() ? narrow() : ribbons()));
