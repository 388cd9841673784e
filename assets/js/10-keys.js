// The keyboard: single keys only when no field has the focus, and only for those who have not switched them off.
'use strict';
const typing = () => {
    const a = document.activeElement;
    return a && (a.matches('input, select, textarea') || a.isContentEditable);
};
const mainForm = () => document.querySelector('form[data-main]');
const rows = () =>
    [...document.querySelectorAll('table[data-rows] tbody tr[data-href], table[data-rows] tbody tr[data-row]')].filter(
        (r) => r.offsetParent !== null,
    );
const press = (selector) => {
    const el = document.querySelector(selector);
    if (el) {
        el.click();
        return true;
    }
    return false;
};
let changed = false;
// the first field has the cursor as soon as the page is there: a browser that is busy would give it later, and what is typed
// until then would be orders
document.addEventListener('DOMContentLoaded', () => {
    const first = document.querySelector('[autofocus]');
    if (first && document.activeElement === document.body) first.focus();
});

function move(step) {
    const list = rows();
    if (!list.length) return false;
    const at = list.indexOf(document.activeElement.closest ? document.activeElement.closest('tr') : null);
    const next = list[Math.max(0, Math.min(list.length - 1, at < 0 ? 0 : at + step))];
    next.tabIndex = -1;
    next.focus();
    next.scrollIntoView({ block: 'nearest' });
    return true;
}

// from the head to the first line, from a line to the one below it, or back
function line(by) {
    const rows = [...document.querySelectorAll('table.lines tbody tr')];
    const at = rows.indexOf(document.activeElement.closest('table.lines tbody tr'));
    const row = rows[at === -1 && by > 0 ? 0 : at + by];
    const field =
        at === 0 && by < 0
            ? mainForm().querySelector('input:not([type=hidden])')
            : row && row.querySelector('input:not([type=hidden])');
    if (!field) return false;
    field.focus();
    if (field.select) field.select();
    return true;
}

// a row's details open beside the list, under an address of their own; from the keyboard the first field there is next
async function beside(row, go) {
    const panel = document.querySelector('#beside');
    if (!row || !row.dataset.beside || !panel) return false;
    const answer = await fetch(row.dataset.beside).catch(() => null);
    if (!answer || !answer.ok) {
        location.href = row.dataset.beside;
        return true;
    }
    const page = new DOMParser().parseFromString(await answer.text(), 'text/html');
    panel.replaceChildren(...page.querySelector('#beside').childNodes);
    history.replaceState(null, '', row.dataset.beside);
    const field = go && panel.querySelector('input:not([type=hidden]), select');
    if (field) {
        field.focus();
        if (field.select) field.select();
    }
    return true;
}

document.addEventListener('keydown', (e) => {
    if (e.defaultPrevented) return;
    if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) {
        e.preventDefault();
        const open = document.querySelector('dialog[open]');
        const button = open
            ? open.querySelector('[data-dialog-action]')
            : document.querySelector(e.shiftKey ? '[data-next-action]' : '[data-main-action]');
        if (button && !button.disabled) button.click();
        return;
    }
    if (e.key.toLowerCase() === 's' && (e.ctrlKey || e.metaKey)) {
        if (press('[data-draft-action]')) e.preventDefault();
        return;
    }
    if ((e.key === 'ArrowDown' || e.key === 'ArrowUp') && e.ctrlKey && document.querySelector('table.lines')) {
        if (line(e.key === 'ArrowDown' ? 1 : -1)) e.preventDefault();
        return;
    }
    if (e.altKey && e.key.toLowerCase() === 'w' && !document.querySelector('dialog[open]') && whyHere()) {
        e.preventDefault();
        whyShow(whyHere());
        return;
    }
    if (e.altKey && e.key.toLowerCase() === 'e') {
        e.preventDefault();
        document.body.classList.toggle('no-entry');
        return;
    }
    if (e.key === 'Escape') {
        if (document.querySelector('.pick')) return;
        const dialog = document.querySelector('dialog[open]');
        if (dialog) {
            dialog.close();
            return;
        }
        if (typing()) {
            document.activeElement.blur();
            e.preventDefault();
            return;
        }
        const out = document.querySelector('[data-out]');
        if (out && (!changed || window.confirm('Leave without saving? What you typed is lost.'))) {
            changed = false;
            location.href = out.getAttribute('href') || out.dataset.out;
        }
        return;
    }
    if (
        e.key === 'Enter' &&
        typing() &&
        document.activeElement.matches('form[data-main] input, form[data-main] select')
    ) {
        // Enter goes on to the next field, in the order of the paper
        e.preventDefault();
        const fields = [
            ...mainForm().querySelectorAll('input:not([type=hidden]):not([disabled]), select, textarea'),
        ].filter((f) => f.offsetParent !== null);
        const next = fields[fields.indexOf(document.activeElement) + 1];
        if (next) {
            next.focus();
            if (next.select) next.select();
        }
        return;
    }
    if (typing() || e.ctrlKey || e.metaKey || e.altKey || document.body.dataset.keys === 'off') return;
    const row = document.activeElement.closest ? document.activeElement.closest('tr[data-href], tr[data-row]') : null;
    const act = {
        '/': () => {
            const f = document.querySelector('#find');
            f.focus();
            f.select();
            return true;
        },
        '?': () => {
            const d = document.querySelector('dialog.keys');
            if (d) {
                keysOf(d);
                d.showModal();
            }
            return !!d;
        },
        w: () => {
            const what = whyHere();
            if (what) whyShow(what);
            return !!what;
        },
        ArrowDown: () => move(1),
        ArrowUp: () => move(-1),
        Enter: () => {
            // a button or a link in a row does what it says
            if (document.activeElement.matches('button, a, summary')) return false;
            if (row && row.dataset.href) {
                location.href = row.dataset.href;
                return true;
            }
            if (row && row === document.activeElement && row.dataset.beside) {
                beside(row, true);
                return true;
            }
            return false;
        },
        ' ': () => {
            const box = row && row.querySelector('input[type=checkbox]');
            if (!box && !(row && row.dataset.amount)) return false;
            if (box) box.checked = !box.checked;
            row.classList.toggle('chosen', box ? box.checked : undefined);
            if (box) box.dispatchEvent(new Event('change', { bubbles: true }));
            pickedSum();
            return true;
        },
        0: () => {
            const boxes = document.querySelectorAll('table[data-rows] input[type=checkbox]');
            boxes.forEach((b) => {
                b.checked = false;
                b.closest('tr').classList.remove('chosen');
            });
            if (boxes.length) boxes[0].dispatchEvent(new Event('change', { bubbles: true }));
            const chosen = document.querySelectorAll('tr.chosen[data-amount]');
            chosen.forEach((r) => r.classList.remove('chosen'));
            pickedSum();
            return boxes.length > 0 || chosen.length > 0 || press('[data-clear]');
        },
        Delete: () => {
            const drop = document.querySelector('[data-delete-action]');
            if (!drop) return false;
            const box = row && row.querySelector('input[type=checkbox]');
            if (box && !document.querySelector('table[data-rows] input[type=checkbox]:checked')) box.checked = true;
            drop.click();
            return true;
        },
        r: () => {
            const refund = document.querySelector('[data-refund]');
            if (refund) {
                refund.focus();
                refund.select();
            }
            return !!refund;
        },
        n: () => press('[data-new]'),
        e: () => press('[data-export]'),
        '>': () => press('[rel=next]'),
        '<': () => press('[rel=start]'),
        f: () => {
            const f = document.querySelector('[data-filter]');
            if (f) {
                const folded = f.closest('details');
                if (folded) folded.open = true;
                f.focus();
                return true;
            }
            return false;
        },
    }[e.key];
    if (act ? act() : /^[1-9]$/.test(e.key) && press(`.rail a[data-area="${e.key}"]`)) e.preventDefault();
});

// a question that stands over the page: the cursor goes to the first thing it asks for
document.addEventListener('click', (e) => {
    const opens = e.target.closest('[data-dialog]');
    const dialog = opens && document.querySelector(`#${opens.dataset.dialog}`);
    if (dialog) {
        dialog.showModal();
        const field = dialog.querySelector('input:not([type=hidden], [type=radio])');
        if (field) {
            field.focus();
            field.select();
        }
    }
    if (e.target.closest('[data-close]')) e.target.closest('dialog').close();
    if (e.target.closest('[data-back]')) history.back();
});
document.addEventListener('click', (e) => {
    const row = e.target.closest('tr[data-href]');
    if (row && !e.target.closest('a, button, input, label')) location.href = row.dataset.href;
    const detailed = e.target.closest('tr[data-beside]');
    if (detailed && !e.target.closest('a, button, input, label')) beside(detailed, false);
});
document.addEventListener('input', (e) => {
    if (e.target.closest('form[data-main]')) changed = true;
});
document.addEventListener('submit', (e) => {
    changed = false;
    const ask = e.submitter && e.submitter.dataset.ask;
    if (ask && !window.confirm(ask)) {
        e.preventDefault();
        return;
    }
    // a second submit of the same page does nothing; the server knows the key as well
    if (e.target.dataset.sent) {
        e.preventDefault();
        return;
    }
    if (e.target.method === 'post' && !e.target.hasAttribute('data-again')) e.target.dataset.sent = '1';
});
window.addEventListener('pageshow', () =>
    document.querySelectorAll('form[data-sent]').forEach((f) => delete f.dataset.sent),
);
window.addEventListener('beforeunload', (e) => {
    if (changed) e.preventDefault();
});
document.addEventListener('change', (e) => {
    if (e.target.matches('[data-go]')) e.target.form.requestSubmit();
});
