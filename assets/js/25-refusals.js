// After a refusal: the cursor stands in the first wrong field, what is mended loses its red, and leaving still asks.
'use strict';
// each thing is said once, at its field; the line on top names the field and leads there
function atItsField(line) {
    const [first, ...rest] = line.dataset.problem.split('.');
    const name = first + rest.map((part) => `[${part}]`).join('');
    const field = name && mainForm().querySelector(`[name="${CSS.escape(name)}"]`);
    if (!field || field.type === 'hidden' || field.offsetParent === null) return;
    const label = field.labels && field.labels[0] ? field.labels[0].textContent : field.getAttribute('aria-label');
    const place = field.closest('.field') || field.parentElement;
    if (!place.querySelector('.wrong')) {
        const said = document.createElement('span');
        said.className = 'wrong';
        said.textContent = line.textContent;
        place.append(said);
    }
    field.setAttribute('aria-invalid', 'true');
    if (!field.id) field.id = name;
    const link = document.createElement('a');
    link.href = `#${field.id}`;
    link.textContent = (label || name).trim();
    line.replaceChildren(link);
}
function afterRefusal() {
    const form = mainForm();
    if (!form) return;
    const problems = document.querySelectorAll('.said-refused [data-problem]');
    problems.forEach(atItsField);
    const wrong = form.querySelector('[aria-invalid="true"]');
    if (problems.length) changed = true;
    if (!wrong) return;
    wrong.focus();
    if (wrong.select) wrong.select();
}
document.addEventListener('DOMContentLoaded', afterRefusal);
document.addEventListener('input', (e) => {
    if (e.target.getAttribute('aria-invalid') !== 'true' || e.target.closest('[data-grid-row]')) return;
    e.target.removeAttribute('aria-invalid');
    e.target.removeAttribute('aria-describedby');
    const said = e.target.closest('.field') && e.target.closest('.field').querySelector('.wrong');
    if (said) said.remove();
});
// a line of a refusal leads to its field
document.addEventListener('click', (e) => {
    const to = e.target.closest('.said-refused a[href^="#"]');
    const field = to && document.querySelector(`[id="${CSS.escape(to.getAttribute('href').slice(1))}"]`);
    if (!field) return;
    e.preventDefault();
    field.focus();
    if (field.select) field.select();
});
// the kind of a document changes its form at once: its title, and the fields that only some kinds have
function ofKind() {
    const kind = document.querySelector('form#invoice #kind');
    if (!kind) return;
    const title = document.querySelector('[data-title-of-kind]');
    if (title) title.textContent = kind.selectedOptions[0].dataset.title;
    document.querySelectorAll('[data-for-kinds]').forEach((part) => {
        const shown = part.dataset.forKinds.split(' ').includes(kind.value);
        part.hidden = !shown;
        part.querySelectorAll('input, select').forEach((f) => {
            f.disabled = !shown;
        });
    });
}
document.addEventListener('change', (e) => {
    if (e.target.id === 'kind') ofKind();
});
document.addEventListener('DOMContentLoaded', ofKind);
