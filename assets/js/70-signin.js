// what asks for something by itself, and is told that nobody is signed in, waits for this
let presentAgain = async () => false;

// When the session ended while a form was being typed, the sign-in appears over the page; after it the form is still there and is sent.
{
    const FRESH = 50_000;
    let asked = Date.now();

    // null when nobody is signed in any more; else who is, with the token that forms of this session carry
    async function stillHere() {
        const answer = await fetch('/still-here', { headers: { Accept: 'application/json' } }).catch(() => null);
        if (!answer) return undefined;
        if (answer.status === 401) return null;
        return answer.ok ? answer.json() : undefined;
    }

    // shows a form of another page in the dialog, and sends it from there
    function ask(dialog, page, resolve) {
        const form = page.querySelector('main form');
        if (!form) {
            resolve();
            return;
        }
        dialog.replaceChildren(document.importNode(form, true));
        const own = dialog.querySelector('form');
        const said = document.createElement('p');
        said.className = 'soft';
        said.textContent = 'You were signed out. Sign in again; what you typed is still here.';
        own.querySelector('h1').after(said);
        own.addEventListener('submit', async (e) => {
            e.preventDefault();
            e.stopPropagation();
            const answer = await fetch(own.getAttribute('action'), { method: 'POST', body: new FormData(own) });
            const at = new URL(answer.url).pathname;
            const again = ['/sign-in', '/second-factor'].includes(at);
            const next = new DOMParser().parseFromString(await answer.text(), 'text/html');
            if (again) ask(dialog, next, resolve);
            else resolve();
        });
        const first = own.querySelector('input:not([type=hidden])');
        if (first) first.focus();
    }

    async function signIn() {
        const dialog = document.createElement('dialog');
        dialog.className = 'quick sign-in-again';
        dialog.setAttribute('aria-label', 'Sign in again');
        document.body.append(dialog);
        dialog.showModal();
        const answer = await fetch('/sign-in');
        const page = new DOMParser().parseFromString(await answer.text(), 'text/html');
        const done = await new Promise((resolve) => {
            dialog.addEventListener('cancel', () => resolve(false));
            ask(dialog, page, () => resolve(true));
        });
        dialog.close();
        dialog.remove();
        return done;
    }

    // a form and what goes along with it may ask at once: there is one dialog, and both wait for it
    let asking = null;
    function present() {
        asking ??= signedIn().finally(() => {
            asking = null;
        });
        return asking;
    }

    // true once whoever works on this page is signed in; the page's forms carry the new session's token then
    async function signedIn() {
        const there = await stillHere();
        // when it cannot be asked, the form goes its way and the server answers
        if (there || there === undefined) return true;
        if (!(await signIn())) return false;
        const now = await stillHere();
        if (!now) return false;
        if (now.name !== document.body.dataset.user) {
            location.reload();
            return false;
        }
        document.querySelectorAll('input[name=_token]').forEach((i) => {
            i.value = now.token;
        });
        document.querySelectorAll('[data-token]').forEach((i) => {
            i.dataset.token = now.token;
        });
        return true;
    }

    presentAgain = present;

    document.addEventListener(
        'submit',
        async (e) => {
            const form = e.target;
            if (
                !document.body.dataset.user ||
                // a field that is named method hides the form's own
                (form.getAttribute('method') || '').toLowerCase() !== 'post' ||
                form.closest('dialog.sign-in-again') ||
                Date.now() - asked < FRESH
            )
                return;
            e.preventDefault();
            e.stopImmediatePropagation();
            const by = e.submitter;
            if (!(await present())) return;
            asked = Date.now();
            form.requestSubmit(by && by.form === form ? by : undefined);
        },
        true,
    );

    // what goes along while a form is typed: the panel beside it is asked for again
    document.addEventListener('htmx:responseError', async (e) => {
        if (e.detail.xhr.status !== 401) return;
        if (await present()) {
            asked = Date.now();
            e.detail.elt.dispatchEvent(new Event('change', { bubbles: true }));
        }
    });
}
