// A statement: Enter marks a line with what was found, left and right look through the finds, typing searches, r makes a rule.
'use strict';
const statement = () => document.querySelector('form[data-statement]');
const choiceOf = (row) => row.querySelector('select[name^="choice["]');
const taken = (row) => {
    const select = choiceOf(row);
    return select && select.selectedOptions[0];
};
const minus = (minor, digits) => (minor < 0 ? '\u2212' : '') + decimal(minor, digits);

// what the chosen place leaves of the line, why it is there, and whether line and record differ
function showChoice(row) {
    const option = taken(row);
    const digits = Number(statement().dataset.digits);
    const marked = row.querySelector('input[name="go[]"]').checked;
    row.classList.toggle('chosen', marked);
    if (!option) return;
    row.querySelector('[data-why]').textContent = option.dataset.reason || '';
    const left = marked && option.value ? Number(option.dataset.left) : Number(row.dataset.waiting);
    row.querySelector('[data-left-of]').textContent = left === 0 ? decimal(0, digits) : minus(left, digits);
    const off = Number(option.dataset.off || 0);
    const place = row.querySelector('.off');
    place.hidden = off === 0 || !option.value;
    place.querySelector('b').textContent = minus(off, digits);
    const to = place.querySelector('input');
    if (off !== 0 && to.dataset.of !== option.value) {
        // where it most likely goes stands there, to be changed
        if (to.dataset.of !== undefined || to.value === '') to.value = option.dataset.to || '';
        to.dataset.of = option.value;
    }
    const spine = row.querySelector('.spine svg');
    spine.classList.toggle('planned', marked && left === 0);
}

// the beam reaches as far as it will once what is marked is posted; its words keep the two apart
function showBeam() {
    const foot = document.querySelector('#beam[data-moved]');
    if (!foot) return;
    const posted = Number(foot.dataset.placed);
    let placed = posted;
    document.querySelectorAll('tr[data-line]').forEach((row) => {
        const option = taken(row);
        if (option && option.value && row.querySelector('input[name="go[]"]').checked)
            placed += Math.abs(Number(option.dataset.amount));
    });
    const moved = Number(foot.dataset.moved);
    const digits = Number(statement().dataset.digits);
    const b = foot.querySelector('.beam-placed');
    const width = (500 * placed) / Math.max(moved, placed, 1);
    b.setAttribute('x', String(1000 - width));
    b.setAttribute('width', String(width));
    foot.querySelector('.beam').classList.toggle('beam-closed', moved === placed && moved > 0);
    foot.querySelector('.beam-text').textContent = `left to place ${decimal(moved - placed, digits)}`;
    const marked = placed - posted;
    foot.querySelector('.beam-right').textContent = [
        ...(posted || !marked ? [`placed ${decimal(posted, digits)}`] : []),
        ...(marked ? [`marked ${decimal(marked, digits)}`] : []),
    ].join(', ');
}
function showAll() {
    if (!statement()) return;
    const lines = [...document.querySelectorAll('tr[data-line]')];
    const most = Math.max(1, ...lines.map((r) => Math.abs(Number(r.dataset.waiting))));
    lines.forEach((row) => {
        showChoice(row);
        const thread = row.querySelector('.thread');
        if (thread)
            thread.style.setProperty(
                '--thread',
                `${1 + Math.round((9 * Math.abs(Number(row.dataset.waiting))) / most)}px`,
            );
    });
    showBeam();
}
function changedRow(row) {
    showChoice(row);
    showBeam();
    htmx.trigger(statement(), 'marked');
}
function markLine(row, on) {
    const option = taken(row);
    const box = row.querySelector('input[name="go[]"]');
    box.checked = (on === undefined ? !box.checked : on) && !!(option && option.value);
    changedRow(row);
}
function turn(row, by) {
    const select = choiceOf(row);
    const n = select.options.length;
    select.selectedIndex = (select.selectedIndex + by + n) % n;
    changedRow(row);
}

// what is typed into a row is searched; Enter there takes the first that is found
let seeking = 0;
async function seek(row, words) {
    const mine = ++seeking;
    const answer = await fetch(`${row.dataset.search}?q=${encodeURIComponent(words)}`).catch(() => null);
    if (!answer || !answer.ok || mine !== seeking) return;
    const page = new DOMParser().parseFromString(`<select>${await answer.text()}</select>`, 'text/html');
    const select = choiceOf(row);
    select.replaceChildren(...page.querySelectorAll('option'));
    select.removeAttribute('data-empty');
    select.selectedIndex = 0;
    row.querySelector('input[name="go[]"]').checked = false;
    changedRow(row);
}
function openSeek(row, first) {
    const field = row.querySelector('[data-seek]');
    field.hidden = false;
    field.value = first;
    field.focus();
    seek(row, first);
}
document.addEventListener('input', (e) => {
    if (!e.target.matches || !e.target.matches('[data-seek]')) return;
    seek(e.target.closest('tr'), e.target.value);
});
document.addEventListener('change', (e) => {
    const row = e.target.closest && e.target.closest('tr[data-line]');
    if (row) changedRow(row);
});
function inSeek(e, row) {
    if (e.key === 'Escape' || e.key === 'Enter') {
        e.preventDefault();
        e.stopPropagation();
        e.target.hidden = true;
        row.focus();
        if (e.key === 'Enter') {
            markLine(row, true);
            const off = row.querySelector('.off input');
            if (!row.querySelector('.off').hidden) off.focus();
            else move(1);
        }
    } else if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
        e.preventDefault();
        turn(row, e.key === 'ArrowDown' ? 1 : -1);
    }
}
document.addEventListener(
    'keydown',
    (e) => {
        if (!statement() || e.ctrlKey || e.altKey || e.metaKey) return;
        const row = e.target.closest && e.target.closest('tr[data-line]');
        if (!row) return;
        if (e.target.matches('[data-seek]')) {
            inSeek(e, row);
            return;
        }
        if (e.target !== row) return;
        if (e.key === 'Enter') {
            e.preventDefault();
            markLine(row);
            const off = row.querySelector('.off');
            if (!off.hidden && row.querySelector('input[name="go[]"]').checked) off.querySelector('input').focus();
            else move(1);
        } else if (e.key === 'ArrowRight' || e.key === 'ArrowLeft') {
            e.preventDefault();
            turn(row, e.key === 'ArrowRight' ? 1 : -1);
        } else if (e.key === 'Delete') {
            e.preventDefault();
            markLine(row, false);
        } else if (document.body.dataset.keys !== 'off' && e.key === 'r') {
            e.preventDefault();
            location.href = row.dataset.rule;
        } else if (document.body.dataset.keys !== 'off' && e.key === 'o') {
            e.preventDefault();
            location.href = row.dataset.open;
        } else if (/^[\p{L}\p{N}?=]$/u.test(e.key) && !/^[en]$/.test(e.key)) {
            // = opens the search empty, for words that begin with a letter that is a key
            e.preventDefault();
            e.stopPropagation();
            openSeek(row, e.key === '=' ? '' : e.key);
        }
    },
    true,
);
document.addEventListener('DOMContentLoaded', () => {
    showAll();
    const first = statement() && document.querySelector('tr[data-line]');
    if (first && document.activeElement === document.body) first.focus();
});
