// The paper beside the form: dropped or chosen, shown as pictures of its pages, zoomed by the wheel with Ctrl or by + and -.
'use strict';
async function keepPaper(input, file) {
    const form = document.querySelector('form#invoice');
    const data = new FormData();
    const send = () =>
        fetch(input.dataset.paperFile, { method: 'POST', body: data, headers: { 'HX-Request': 'true' } }).catch(
            () => null,
        );
    data.append('paper', file);
    data.append('_token', document.querySelector('input[name=_token]').value);
    if (input.dataset.document) data.append('document', input.dataset.document);
    const papers = document.querySelector('#papers');
    let answer = await send();
    if (answer && answer.status === 401 && (await presentAgain())) {
        data.set('_token', document.querySelector('input[name=_token]').value);
        answer = await send();
    }
    papers.querySelectorAll('.said-refused').forEach((p) => p.remove());
    if (!answer || answer.status !== 201) {
        const said = document.createElement('p');
        said.className = 'said-refused';
        said.setAttribute('role', 'alert');
        said.textContent =
            answer && answer.status === 422 ? (await answer.json()).refused : 'The file did not arrive; try it again.';
        papers.append(said);
        return;
    }
    papers.insertAdjacentHTML('beforeend', await answer.text());
    const id = papers.lastElementChild.dataset.paper;
    if (form) {
        const hidden = document.createElement('input');
        hidden.type = 'hidden';
        hidden.name = 'paper[]';
        hidden.value = id;
        form.append(hidden);
    }
}
document.addEventListener('change', (e) => {
    if (e.target.matches('[data-paper-file]') && e.target.files.length) {
        keepPaper(e.target, e.target.files[0]);
        e.target.value = '';
    }
});
document.addEventListener('dragover', (e) => {
    if (document.querySelector('[data-paper-file]')) e.preventDefault();
});
document.addEventListener('drop', (e) => {
    const input = document.querySelector('[data-paper-file]');
    if (!input || !e.dataTransfer || !e.dataTransfer.files.length) return;
    e.preventDefault();
    keepPaper(input, e.dataTransfer.files[0]);
});
function zoom(step) {
    const papers = document.querySelector('#papers');
    if (!papers || !papers.querySelector('img')) return false;
    const now = Math.max(1, Math.min(4, Number(papers.dataset.zoom || 1) + step));
    papers.dataset.zoom = String(now);
    papers.querySelectorAll('img').forEach((i) => {
        i.style.width = `${now * 100}%`;
    });
    return true;
}
document.addEventListener(
    'wheel',
    (e) => {
        if (e.ctrlKey && e.target.closest('#papers') && zoom(e.deltaY < 0 ? 0.25 : -0.25)) e.preventDefault();
    },
    { passive: false },
);
document.addEventListener('keydown', (e) => {
    if (e.altKey && e.key.toLowerCase() === 'p') {
        const f = document.querySelector('[data-paper-file]');
        if (f) {
            e.preventDefault();
            f.click();
        }
    }
    if (e.altKey && (e.key === '+' || e.key === '=') && zoom(0.5)) e.preventDefault();
    if (e.altKey && e.key === '-' && zoom(-0.5)) e.preventDefault();
    if (e.altKey && e.key.toLowerCase() === 'l') {
        const b = document.querySelector('[data-like]');
        if (b) {
            e.preventDefault();
            b.click();
        }
    }
});
document.addEventListener('click', async (e) => {
    if (e.target.closest('#papers img')) {
        zoom(Number(document.querySelector('#papers').dataset.zoom || 1) >= 3 ? -4 : 0.5);
        return;
    }
    const like = e.target.closest('[data-like]');
    if (!like) return;
    const answer = await fetch(like.dataset.like).catch(() => null);
    if (answer && answer.ok) fillLines(await answer.json());
});
// fills the rows of the form; a row that is missing is made as if the last one had been entered
function fillLines(lines, from = 0) {
    lines.forEach((line, n) => {
        const k = from + n;
        let rows = document.querySelectorAll('table.lines tbody tr');
        if (!rows[k] && rows[k - 1]) rowAfter(rows[k - 1]);
        rows = document.querySelectorAll('table.lines tbody tr');
        if (!rows[k + 1] && rows[k]) rowAfter(rows[k]);
        rows = document.querySelectorAll('table.lines tbody tr');
        Object.entries(line).forEach(([name, value]) => {
            const f = rows[k] && rows[k].querySelector(`[name$="[${name}]"]`);
            if (f) f.value = value;
        });
    });
    const first = document.querySelectorAll('table.lines input[name$="[amount]"]')[from];
    if (first) {
        first.dispatchEvent(new Event('change', { bubbles: true }));
        first.focus();
        first.select();
    }
}
// splits: a total over the shares of a template or of the lines themselves, and the lines' shares kept as a template
async function splitRefused(answer) {
    const p = document.createElement('p');
    p.className = 'wrong';
    p.setAttribute('role', 'alert');
    p.textContent = (await answer.json()).refused;
    document.querySelectorAll('#split .wrong').forEach((w) => w.remove());
    document.querySelector('#split').append(p);
}
function splitTotal() {
    const stated = document.querySelector('[name=stated_total]');
    return document.querySelector('#split-total').value || (stated && stated.value.replace(/,/g, '')) || '';
}
document.addEventListener('click', async (e) => {
    const fill = e.target.closest('[data-split-fill]');
    const share = e.target.closest('[data-split-share]');
    const keepIt = e.target.closest('[data-split-keep]');
    if (fill) {
        const currency = document.querySelector('#n-currency');
        const url = new URL(fill.dataset.splitFill, location.href);
        url.searchParams.set('template', document.querySelector('#split-template').value);
        url.searchParams.set('total', splitTotal());
        if (currency && /^[A-Z]{3}$/.test(currency.textContent.trim()))
            url.searchParams.set('currency', currency.textContent.trim());
        const answer = await fetch(url).catch(() => null);
        if (answer && answer.ok) {
            fillLines(await answer.json());
            return;
        }
        if (answer && answer.status === 422) await splitRefused(answer);
    }
    if (share) {
        const data = new FormData(document.querySelector('form#invoice'));
        data.append('_total', splitTotal());
        const answer = await fetch(share.dataset.splitShare, { method: 'POST', body: data }).catch(() => null);
        if (answer && answer.ok) {
            const amounts = Object.entries(await answer.json());
            amounts.forEach(([k, amount]) => {
                const f = document.querySelector(`[name="lines[${k}][amount]"]`);
                if (f) f.value = amount;
            });
            document.querySelectorAll('#split .wrong').forEach((w) => w.remove());
            const first = document.querySelector('table.lines input[name$="[amount]"]');
            first.dispatchEvent(new Event('change', { bubbles: true }));
            first.focus();
        } else if (answer && answer.status === 422) await splitRefused(answer);
    }
    if (keepIt) {
        const data = new FormData(document.querySelector('form#invoice'));
        data.append('_split', keepIt.dataset.splitKeep);
        const answer = await fetch(keepIt.dataset.url, { method: 'POST', body: data }).catch(() => null);
        if (answer && (answer.ok || answer.status === 422))
            document.querySelector('#split').innerHTML = await answer.text();
    }
});

// A page that no worker has drawn yet is asked for again; one that cannot be drawn says so
document.addEventListener(
    'error',
    async (e) => {
        const img = e.target;
        if (!img.matches || !img.matches('img[data-page]')) return;
        const answer = await fetch(img.dataset.page).catch(() => null);
        const tries = Number(img.dataset.tries || 0) + 1;
        img.dataset.tries = String(tries);
        if (answer && answer.status === 202 && tries < 120) {
            setTimeout(() => {
                img.src = `${img.dataset.page}?t=${tries}`;
            }, 700);
        } else if (answer && answer.status === 422) {
            const said = document.createElement('p');
            said.className = 'said-refused';
            said.textContent = await answer.text();
            img.replaceWith(said);
        } else if (answer && answer.ok && tries < 120) {
            img.src = `${img.dataset.page}?t=${tries}`;
        }
    },
    true,
);
