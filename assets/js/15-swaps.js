// Answers that come while somebody types: one to what was typed before is dropped, since the next is on its way; and none of them
// touches the field in use or takes the focus.
'use strict';
const typedSoFar = new WeakMap();
const inField = () => !!document.activeElement && document.activeElement.matches('input, select, textarea');
document.addEventListener(
    'input',
    (e) => {
        if (e.target.form) typedSoFar.set(e.target.form, (typedSoFar.get(e.target.form) || 0) + 1);
    },
    true,
);
// the answer's own events name the place it goes to, so the request remembers who asked
document.addEventListener('htmx:beforeRequest', (e) => {
    e.detail.xhr.asking = e.detail.elt.closest('form');
    e.detail.xhr.typedSoFar = typedSoFar.get(e.detail.xhr.asking);
});
document.addEventListener('htmx:beforeSwap', (e) => {
    if (window.Idiomorph) Idiomorph.defaults.ignoreActiveValue = inField();
    const form = e.detail.xhr.asking;
    // what cannot be understood is said in the same places, where a form takes its places out of a page
    if (e.detail.xhr.status === 422 && form && form.hasAttribute('hx-select')) {
        e.detail.shouldSwap = true;
        e.detail.isError = false;
    }
    // only a form that asks as one types has another answer coming
    if (
        form &&
        /\binput\b/.test(form.getAttribute('hx-trigger') || '') &&
        e.detail.xhr.typedSoFar !== typedSoFar.get(form)
    )
        e.detail.shouldSwap = false;
    if (typeof e.detail.serverResponse === 'string')
        e.detail.serverResponse = e.detail.serverResponse.replaceAll(' autofocus', '');
});
document.addEventListener('htmx:oobBeforeSwap', (e) => {
    const used = document.activeElement;
    // a part that is morphed keeps what stands in the field in use; a row in use is no field, and what is in it is brought up to date
    if (window.Idiomorph) Idiomorph.defaults.ignoreActiveValue = inField();
    if (inField() && e.detail.target === used) e.detail.shouldSwap = false;
});
