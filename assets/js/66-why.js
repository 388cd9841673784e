// Why a figure is what it is: w on a row, or on the page, asks for the rule and the numbers that went in.
'use strict';
function whyShow(what) {
    let dialog = document.querySelector('#why');
    if (!dialog) {
        dialog = document.createElement('dialog');
        dialog.id = 'why';
        dialog.className = 'quick why';
        dialog.setAttribute('aria-label', 'Why');
        dialog.innerHTML =
            '<div id="why-said" hx-sync="this:replace"></div><p><button type="button" class="btn btn-small" data-close>Close</button></p>';
        document.body.append(dialog);
    }
    const said = dialog.querySelector('#why-said');
    said.textContent = '';
    dialog.showModal();
    if (what.dataset.whyText) {
        const [head, ...lines] = what.dataset.whyText.split('\n').filter((l) => l.trim());
        const title = document.createElement('h2');
        title.textContent = head.trim();
        said.append(title);
        lines.forEach((line) => {
            const p = document.createElement('p');
            p.textContent = line.trim();
            said.append(p);
        });
        return;
    }
    const form = what.dataset.whyForm && what.closest('form');
    // asked by the dialog, not by the form: what the form asks next would take the question back
    htmx.ajax(form ? 'POST' : 'GET', what.dataset.whyForm || what.dataset.why, {
        source: '#why-said',
        target: '#why-said',
        swap: 'innerHTML',
        ...(form ? { values: new FormData(form) } : {}),
    }).catch(() => {}); // a later question took its place, or what went wrong is said already
}
function whyHere() {
    const at = document.activeElement;
    const near = at && at.closest ? at.closest('[data-why], [data-why-text]') : null;
    return near || document.querySelector('[data-why-page], [data-why-form]');
}
document.addEventListener('click', (e) => {
    const link = e.target.closest('a[data-why-link]');
    const what = link && (link.closest('[data-why]') || link);
    if (!what || e.ctrlKey || e.metaKey) return;
    e.preventDefault();
    whyShow(what);
});
