// Posting, and the next of the pile: the page that answers takes the place of this one, so that nothing is loaded between two receipts.
'use strict';
{
    // as it would be sent without this: the server knows the page's key, so that nothing is posted twice
    function sendWhole(form, by) {
        form.dataset.whole = '1';
        form.requestSubmit(by);
    }

    function takePlace(page, answer, title) {
        document.querySelector('.page').replaceWith(page);
        document.title = title;
        history.replaceState(null, '', answer.url);
        htmx.process(page);
        const first = page.querySelector('[autofocus]');
        if (first) first.focus();
        afterRefusal();
        ribbons();
        window.scrollTo(0, 0);
    }

    document.addEventListener('submit', async (e) => {
        const form = e.target;
        const by = e.submitter;
        if (e.defaultPrevented || !by || !by.matches('[data-next-action]')) return;
        if (!form.hasAttribute('data-stays') || form.dataset.whole) return;
        e.preventDefault();
        form.dataset.sent = '1';
        // what was asked while typing has no place in the next page
        htmx.trigger(form, 'htmx:abort');
        const answer = await fetch(form.getAttribute('action'), { method: 'POST', body: new FormData(form, by) }).catch(
            () => null,
        );
        delete form.dataset.sent;
        if (!answer) {
            changed = true;
            boardSays('The server does not answer. Nothing is lost; post again when it does.');
            return;
        }
        const next = new DOMParser().parseFromString(await answer.text(), 'text/html');
        const page = next.querySelector('.page');
        if (page && page.querySelector(`form#${form.id}`)) takePlace(document.adoptNode(page), answer, next.title);
        else if (answer.status !== 401) sendWhole(form, by);
        else if (await presentAgain()) form.requestSubmit(by);
        else changed = true;
    });
}
