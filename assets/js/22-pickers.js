// Pickers: what may be meant by what is typed in a field, from the server; and what is not there yet is added beside the form.
'use strict';
let wait = 0;
// a field that takes several codes is picked by its last word
function word(field) {
    return field.hasAttribute('data-many') ? field.value.split(/[\s,]+/).pop() : field.value;
}
function closePick() {
    document.querySelectorAll('.pick').forEach((p) => p.remove());
    document.querySelectorAll('[aria-expanded="true"]').forEach((f) => f.setAttribute('aria-expanded', 'false'));
}
async function openPick(field) {
    const asked = word(field);
    const answer = await fetch(`${field.dataset.pick}?q=${encodeURIComponent(asked)}`, {
        headers: { Accept: 'application/json' },
    }).catch(() => null);
    if (!answer || !answer.ok || document.activeElement !== field) return;
    const found = await answer.json();
    const shown = document.querySelector('.pick');
    if (shown && shown.dataset.asked === asked && shown.dataset.moved) return; // asked twice, and something is marked by now
    closePick();
    if (!found.length && !field.dataset.add) return;
    const list = document.createElement('div');
    list.className = 'pick';
    list.setAttribute('role', 'listbox');
    list.id = 'pick-list';
    list.dataset.asked = asked;
    found.forEach((r, k) => {
        const option = document.createElement('div');
        option.setAttribute('role', 'option');
        option.id = `pick-${k}`;
        option.dataset.code = r.code;
        if (r.amount) option.dataset.amount = r.amount;
        const code = document.createElement('b');
        code.textContent = r.code;
        const name = document.createElement('span');
        name.textContent = r.name;
        option.append(code, name);
        option.setAttribute('aria-selected', k === 0 && word(field).trim() !== '' ? 'true' : 'false');
        option.addEventListener('mousedown', (e) => {
            e.preventDefault();
            take(field, option);
        });
        list.append(option);
    });
    if (field.dataset.add) {
        const typed = word(field).trim();
        const option = document.createElement('div');
        option.setAttribute('role', 'option');
        option.id = 'pick-add';
        option.dataset.code = typed;
        option.dataset.isNew = '1';
        option.className = 'pick-add';
        option.textContent =
            typed && !found.length
                ? `Add ${typed} as a new ${field.dataset.addWord} …`
                : `Add a new ${field.dataset.addWord} …`;
        option.setAttribute('aria-selected', 'false');
        option.addEventListener('mousedown', (e) => {
            e.preventDefault();
            take(field, option);
        });
        list.append(option);
    }
    field.parentElement.append(list);
    field.setAttribute('aria-expanded', 'true');
    field.setAttribute('aria-controls', 'pick-list');
}
// a new record beside the form that needs it: the form keeps everything, the field takes the new code
async function addNew(field, typed) {
    closePick();
    const url = field.dataset.add;
    const dialog = document.createElement('dialog');
    dialog.className = 'quick';
    dialog.setAttribute('aria-labelledby', 'quick-title');
    const show = async (answer) => {
        dialog.innerHTML = await answer.text();
        const first = dialog.querySelector('[aria-invalid]') || dialog.querySelector('[autofocus]');
        if (first) {
            first.focus();
            first.select();
        }
    };
    const done = () => {
        dialog.close();
    };
    dialog.addEventListener('close', () => {
        dialog.remove();
        field.focus();
    });
    dialog.addEventListener('click', (e) => {
        if (e.target.closest('[data-quick-out]')) done();
    });
    dialog.addEventListener('keydown', (e) => {
        if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) {
            e.preventDefault();
            e.stopPropagation();
            dialog.querySelector('form').requestSubmit();
            return;
        }
        if (e.key === 'Escape' && !dialog.querySelector('.pick')) {
            e.preventDefault();
            e.stopPropagation();
            done();
            return;
        }
        if (e.key !== 'Enter' || !e.target.matches('input') || dialog.querySelector('.pick')) return;
        e.preventDefault();
        const fields = [...dialog.querySelectorAll('input:not([type=hidden]), button')];
        fields[fields.indexOf(e.target) + 1].focus();
    });
    dialog.addEventListener('submit', async (e) => {
        e.preventDefault();
        e.stopPropagation();
        const answer = await fetch(url, { method: 'POST', body: new FormData(e.target) }).catch(() => null);
        if (!answer) return;
        if (answer.status !== 201) {
            await show(answer);
            return;
        }
        field.value = (await answer.json()).code;
        done();
        field.dispatchEvent(new Event('change', { bubbles: true }));
    });
    const answer = await fetch(`${url}?name=${encodeURIComponent(typed)}`).catch(() => null);
    if (!answer || !answer.ok) return;
    document.body.append(dialog);
    dialog.showModal();
    await show(answer);
}
// a party that was found by an amount brings it along, where one is asked for and none is typed
function bring(field, amount) {
    const to = amount && field.form && field.form.querySelector('#amount');
    if (to && to.value.trim() === '') to.value = amount;
}
function take(field, option) {
    if (option.dataset.isNew) {
        addNew(field, option.dataset.code);
        return;
    }
    field.value = field.hasAttribute('data-many')
        ? field.value.replace(/[^\s,]*$/, '') + option.dataset.code
        : option.dataset.code;
    bring(field, option.dataset.amount);
    closePick();
    field.dispatchEvent(new Event('change', { bubbles: true }));
}
async function settleField(field, typed) {
    clearTimeout(wait);
    const answer = await fetch(`${field.dataset.pick}?q=${encodeURIComponent(typed)}`, {
        headers: { Accept: 'application/json' },
    }).catch(() => null);
    if (!answer || !answer.ok || word(field) !== typed) return;
    const found = await answer.json();
    const right = found.find((r) => r.code.toLowerCase() === typed.trim().toLowerCase()) || found[0];
    if (!right || right.code === typed || word(field) !== typed) return;
    field.value = field.hasAttribute('data-many') ? field.value.replace(/[^\s,]*$/, '') + right.code : right.code;
    bring(field, right.amount);
    field.dispatchEvent(new Event('change', { bubbles: true }));
}
// one of several that is typed and done with: its code takes its place, while the next one may be typed already
async function settleOneOfMany(field, typed) {
    const answer = await fetch(`${field.dataset.pick}?q=${encodeURIComponent(typed)}`, {
        headers: { Accept: 'application/json' },
    }).catch(() => null);
    const found = answer && answer.ok ? await answer.json() : [];
    const right = found.find((r) => r.code.toLowerCase() === typed.toLowerCase()) || found[0];
    const words = field.value.split(',');
    const at = words.findIndex((w) => w.trim() === typed);
    if (!right || at < 0 || right.code === typed) return;
    words[at] = words[at].replace(typed, right.code);
    const fromEnd = field.value.length - field.selectionEnd;
    field.value = words.join(',');
    field.setSelectionRange(field.value.length - fromEnd, field.value.length - fromEnd);
    if (document.activeElement !== field) field.dispatchEvent(new Event('change', { bubbles: true }));
}
document.addEventListener('input', (e) => {
    if (!e.target.matches('[data-pick]')) return;
    clearTimeout(wait);
    wait = setTimeout(() => openPick(e.target), 120);
});
document.addEventListener(
    'keydown',
    (e) => {
        if (!e.target.matches || !e.target.matches('[data-pick]')) return;
        // with Ctrl the arrows go from line to line
        if (e.ctrlKey && e.key.startsWith('Arrow')) return;
        const options = [...document.querySelectorAll('.pick [role=option]')];
        // the arrow asks at once; the list that typing would have asked for must not come after and undo what is marked in this one
        if (e.key === 'ArrowDown' && !options.length) {
            e.preventDefault();
            clearTimeout(wait);
            openPick(e.target);
            return;
        }
        if (e.key === 'ArrowDown' || e.key === 'ArrowUp') clearTimeout(wait);
        const list = document.querySelector('.pick');
        if (e.key === ',' && e.target.hasAttribute('data-many') && word(e.target).trim() !== '') {
            closePick();
            settleOneOfMany(e.target, word(e.target).trim());
            return;
        }
        // typed faster than the list came: what was typed counts, not what an older list has marked
        if (
            ((e.key === 'Enter' && !e.ctrlKey) || (e.key === 'Tab' && !e.shiftKey)) &&
            word(e.target).trim() !== '' &&
            (!list || (list.dataset.asked !== word(e.target) && !list.dataset.moved))
        ) {
            closePick();
            settleField(e.target, word(e.target));
            return;
        }
        if (!options.length) return;
        const at = options.findIndex((o) => o.getAttribute('aria-selected') === 'true');
        if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
            e.preventDefault();
            list.dataset.moved = '1';
            const next = options[(at + (e.key === 'ArrowDown' ? 1 : -1) + options.length) % options.length];
            options.forEach((o) => o.setAttribute('aria-selected', o === next ? 'true' : 'false'));
            e.target.setAttribute('aria-activedescendant', next.id);
            next.scrollIntoView({ block: 'nearest' });
        } else if ((e.key === 'Enter' && !e.ctrlKey) || e.key === 'Tab') {
            const exact = options.find(
                (o) => !o.dataset.isNew && o.dataset.code.toLowerCase() === word(e.target).trim().toLowerCase(),
            );
            const chosen = (!list.dataset.moved && exact) || (at >= 0 ? options[at] : exact);
            if (chosen) take(e.target, chosen);
            else closePick();
        } else if (e.key === 'Escape') {
            e.preventDefault();
            closePick();
        }
    },
    true,
);
document.addEventListener('focusout', (e) => {
    if (e.target.matches && e.target.matches('[data-pick]')) {
        clearTimeout(wait);
        setTimeout(closePick, 100);
    }
});
