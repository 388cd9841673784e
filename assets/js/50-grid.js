// The grid: one row a document. Rows are kept by the server as they are typed; it says what it understood, and what is wrong.
'use strict';
const grid = () => document.querySelector('table[data-grid]');
const gridRows = () => [...document.querySelectorAll('table[data-grid] tr[data-grid-row]')];
const cell = (row, col) => row.querySelector(`input[data-col="${col}"]`);
const columnsOf = (row) => [...row.querySelectorAll('input[data-col]')].map((f) => f.dataset.col);
// those that one goes through; the reason stands there only when it is asked for
const shownColumns = (row) =>
    [...row.querySelectorAll('input[data-col]:not([type=checkbox])')]
        .filter((f) => !f.hidden)
        .map((f) => f.dataset.col);
const valueOf = (f) => (f.type === 'checkbox' && !f.checked ? '' : f.value);
// what a row is asked stands in it only when it is asked
const answers = (row) => ({
    look_alike_reason: cell(row, 'look_alike_reason'),
    day_meant: cell(row, 'day_meant').closest('label'),
});
const dirty = new Set();
let keeping = null;
let keepTimer = 0;

function emptyRow(after) {
    const copy = after.cloneNode(true);
    copy.removeAttribute('data-draft');
    copy.removeAttribute('data-version');
    copy.querySelectorAll('input').forEach((f) => {
        if (f.type === 'checkbox') f.checked = false;
        else f.value = '';
        f.removeAttribute('aria-invalid');
        f.removeAttribute('title');
        f.removeAttribute('autofocus');
    });
    copy.querySelectorAll('[data-total], [data-wrong]').forEach((el) => {
        el.textContent = '';
    });
    Object.values(answers(copy)).forEach((el) => {
        el.hidden = true;
    });
    copy.querySelectorAll('.pick').forEach((p) => p.remove());
    after.after(copy);
    number();
    return copy;
}
function number() {
    gridRows().forEach((r) => {
        const n = [...r.parentElement.children].indexOf(r) + 1;
        r.firstElementChild.textContent = String(n);
        r.querySelectorAll('input').forEach((f) =>
            f.setAttribute('aria-label', f.getAttribute('aria-label').replace(/\d+$/, String(n))),
        );
    });
}
function touch(row) {
    dirty.add(row);
    clearTimeout(keepTimer);
    keepTimer = setTimeout(() => keep(), 120);
}
// one request at a time; the promise is that of all that was to be kept, so that waiting for it never spins
function keep(check = false) {
    if (!keeping && dirty.size && grid())
        keeping = send(check).finally(() => {
            keeping = null;
        });
    return keeping;
}
async function send(check) {
    const said = document.querySelector('#grid-said');
    while (dirty.size) {
        const rows = [...dirty].slice(0, 200);
        rows.forEach((r) => dirty.delete(r));
        const sent = rows.filter((r) => r.isConnected || r.dataset.draft);
        const data = {};
        sent.forEach((r, k) => {
            data[k] = { draft: r.dataset.draft || '', version: r.dataset.version || '' };
            columnsOf(r).forEach((c) => {
                data[k][c] = r.isConnected ? valueOf(cell(r, c)) : '';
            });
        });
        const answer = await fetch(grid().dataset.grid, {
            method: 'POST',
            headers: {
                'Content-Type': 'application/json',
                'X-Token': grid().dataset.token,
                'HX-Request': 'true',
            },
            body: JSON.stringify({ rows: data, check }),
        }).catch(() => null);
        if (answer && answer.status === 401 && (await presentAgain())) {
            sent.forEach((r) => dirty.add(r));
            continue;
        }
        said.replaceChildren();
        if (!answer || !answer.ok) {
            const p = document.createElement('p');
            p.className = 'said-refused';
            p.textContent =
                answer && answer.status === 422
                    ? (await answer.json()).refused
                    : 'The rows could not be kept; what you typed is still here. They are sent again with the next change.';
            said.append(p);
            sent.forEach((r) => dirty.add(r));
            return;
        }
        const result = await answer.json();
        sent.forEach((r, k) => show(r, result.rows[k]));
        document.querySelector('#batch-sum').innerHTML = result.sum;
    }
}
function show(row, result) {
    if (!result || !row.isConnected) return;
    if (result.draft) {
        row.dataset.draft = result.draft;
        row.dataset.version = result.version;
    } else {
        delete row.dataset.draft;
        delete row.dataset.version;
    }
    const stale = dirty.has(row);
    row.querySelector('[data-total]').textContent = result.total;
    const due = cell(row, 'due_date');
    if (due) due.placeholder = result.due;
    if (!stale)
        Object.entries(result.understood).forEach(([c, v]) => {
            const f = cell(row, c);
            if (f && f !== document.activeElement && f.value.trim() !== '') f.value = v;
        });
    // an empty cell of a row that is still being typed is no error yet
    const typing = row.contains(document.activeElement);
    const shown = Object.entries(result.problems).filter(([c]) => !(typing && result.missing.includes(c)));
    columnsOf(row).forEach((c) => {
        const f = cell(row, c);
        const p = shown.find(([field]) => field === c);
        if (p) {
            f.setAttribute('aria-invalid', 'true');
            f.title = p[1];
        } else {
            f.removeAttribute('aria-invalid');
            f.removeAttribute('title');
        }
    });
    row.querySelector('[data-wrong]').textContent = shown.map(([, text]) => text).join(' ');
    Object.entries(answers(row)).forEach(([name, el]) => {
        const answered = valueOf(cell(row, name)) !== '';
        el.hidden = !result.asks.includes(name) && !answered && !el.contains(document.activeElement);
    });
}
function go(row, col) {
    const f = row && cell(row, col);
    if (f) {
        f.focus();
        f.select();
        return true;
    }
    return false;
}

document.addEventListener('change', (e) => {
    if (e.target.matches('[data-grid-row] input')) touch(e.target.closest('tr'));
});
document.addEventListener('focusout', (e) => {
    // leaving a row shows what is still missing in it
    const row = e.target.closest && e.target.closest('[data-grid-row]');
    if (row && row.dataset.draft && !(e.relatedTarget && row.contains(e.relatedTarget))) touch(row);
});
document.addEventListener('focusin', (e) => {
    const row = e.target.closest && e.target.closest('table[data-grid] [data-grid-row]');
    if (row && row === gridRows().pop() && columnsOf(row).some((c) => valueOf(cell(row, c)))) emptyRow(row);
});
document.addEventListener('input', (e) => {
    const row = e.target.closest && e.target.closest('table[data-grid] [data-grid-row]');
    if (row && row === gridRows().pop()) emptyRow(row);
});
document.addEventListener(
    'keydown',
    (e) => {
        const row = e.target.closest && e.target.closest('table[data-grid] [data-grid-row]');
        if (!row || !e.target.matches('input')) return;
        const rows = gridRows();
        const at = rows.indexOf(row);
        const col = e.target.dataset.col;
        const cols = shownColumns(row);
        const k = cols.indexOf(col);
        const open = row.querySelector('.pick');
        const stop = () => {
            e.preventDefault();
            e.stopPropagation();
        };
        if (e.ctrlKey && e.key.toLowerCase() === 'd') {
            stop();
            if (!rows[at - 1]) return;
            (e.shiftKey ? cols.filter((c) => c !== 'number' && c !== 'look_alike_reason') : [col]).forEach((c) => {
                cell(row, c).value = cell(rows[at - 1], c).value;
            });
            touch(row);
            if (row === rows[rows.length - 1]) emptyRow(row);
            return;
        }
        if (e.ctrlKey && e.key === 'ArrowDown') {
            stop();
            go(rows[at + 1] || emptyRow(row), cols[0]);
            return;
        }
        if (e.altKey && e.key.toLowerCase() === 'i') {
            stop();
            const fresh = emptyRow(row);
            row.before(fresh);
            number();
            go(fresh, cols[0]);
            return;
        }
        if (e.altKey && e.key === 'Delete') {
            stop();
            if (rows.length < 2) return;
            const next = rows[at + 1] || rows[at - 1];
            if (row.dataset.draft) touch(row);
            row.remove();
            number();
            go(next, col);
            return;
        }
        if (e.ctrlKey || e.altKey || e.metaKey || open) return;
        if (e.key === 'ArrowDown') {
            stop();
            go(rows[at + 1], col);
        } else if (e.key === 'ArrowUp') {
            stop();
            go(rows[at - 1], col);
        } else if (e.key === 'ArrowRight' && e.target.selectionEnd === e.target.value.length && cols[k + 1]) {
            stop();
            go(row, cols[k + 1]);
        } else if (e.key === 'ArrowLeft' && e.target.selectionStart === 0 && cols[k - 1]) {
            stop();
            go(row, cols[k - 1]);
        } else if (e.key === 'Enter') {
            stop();
            if (cols[k + 1]) go(row, cols[k + 1]);
            else go(rows[at + 1] || emptyRow(row), cols[0]);
        }
    },
    true,
);
document.addEventListener('paste', (e) => {
    const row = e.target.closest && e.target.closest('table[data-grid] [data-grid-row]');
    const text = row && e.clipboardData ? e.clipboardData.getData('text/plain') : '';
    if (!/[\t\n]/.test(text.replace(/\r?\n$/, '')) || e.target.dataset.col === 'look_alike_reason') return;
    e.preventDefault();
    const cols = columnsOf(row).filter((c) => !(c in answers(row)));
    const from = cols.indexOf(e.target.dataset.col);
    let r = row;
    text.replace(/\r?\n$/, '')
        .split(/\r?\n/)
        .slice(0, 500)
        .forEach((line) => {
            line.split('\t').forEach((value, k) => {
                const f = cols[from + k] && cell(r, cols[from + k]);
                if (f) f.value = value.trim();
            });
            dirty.add(r);
            const list = gridRows();
            r = list[list.indexOf(r) + 1] || emptyRow(r);
        });
    touch(row);
});
window.addEventListener('load', () => {
    const rows = gridRows().filter((r) => r.dataset.draft);
    rows.forEach((r) => dirty.add(r));
    if (rows.length) keep(true);
});
// what is still on its way is kept before the batch is posted
document.addEventListener(
    'submit',
    async (e) => {
        if (!e.target.matches('[data-grid-post]') || (!dirty.size && !keeping)) return;
        e.preventDefault();
        e.stopImmediatePropagation();
        const button = e.submitter;
        clearTimeout(keepTimer);
        while (dirty.size || keeping) {
            await (keeping || keep());
            if (document.querySelector('#grid-said .said-refused')) return;
        }
        e.target.requestSubmit(button);
    },
    true,
);
