<?php

declare(strict_types=1);

namespace Nelbix\Tests\Browser;

use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverDimension;
use Facebook\WebDriver\WebDriverKeys as Key;

/** The main jobs from the first key to the posted entry, by keyboard only. */
final class MainJobsTest extends BrowserCase
{
    public function testEnterAndPostAVendorInvoice(): void
    {
        $this->signIn('ilves');
        $this->accessible();
        $this->type('n');
        $this->see('h1', 'Vendor invoice');
        self::assertSame('party', $this->focused());
        $this->type('fenw');
        $this->see('.pick', 'Fenwick Timber');
        $this->type(Key::ENTER);
        $this->tabTo('number');
        $this->type('KB-7001', Key::TAB, '-5', Key::TAB);
        // what was understood stands in the field, once
        $this->until('document.querySelector("[name=document_date]").value === "10 Jun 2026"');
        self::assertSame('', $this->text('#n-document_date'));
        $this->tabTo('lines[0][account]');
        $this->type('5000', Key::TAB, 'white oak', Key::TAB, '1200/3', Key::TAB, 'P8', Key::TAB);
        $this->see('#panel', '432.00');
        $this->see('#panel', '8.64');
        self::assertSame('400.00', $this->value('lines[0][amount]'));
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Payables rose by 432.00 USD. Due 10 Jul 2026; 8.64 discount until 20 Jun 2026.');
        $this->accessible();
        $this->booksAgree();
    }

    public function testARefusedInvoiceKeepsWhatWasTyped(): void
    {
        $this->signIn('ilves');
        $this->go('/BOAT/payables/invoice');
        $this->type('V-0002', Key::TAB);
        $this->tabTo('document_date');
        $this->type('31 Mar 2026', Key::TAB);
        $this->tabTo('lines[0][account]');
        $this->type('9999', Key::TAB, '', Key::TAB, '10.005', Key::TAB);
        $this->chord(Key::ENTER, Key::CONTROL);
        // each thing once, at its field; the lines on top lead there, and the cursor stands in the first of them
        $this->see('.said-refused', 'Not posted.');
        $links = $this->browser->executeScript(
            'return [...document.querySelectorAll(".said-refused a")].map((a) => a.textContent)',
        );
        self::assertEqualsCanonicalizing(['Their number', 'Account of line 1', 'Amount of line 1'], $links);
        $this->see('.field:has([name=number]) .wrong', 'Their number is missing');
        $this->see('.field:has([name="lines[0][amount]"]) .wrong', 'no more than 2 decimals');
        $this->see('.field:has([name="lines[0][account]"]) .wrong', 'There is no account “9999”');
        self::assertSame('10.005', $this->value('lines[0][amount]'));
        self::assertSame('number', $this->focused());
        $this->accessible();
        // what is mended loses its red, and leaving still asks
        $this->type('N-1');
        self::assertSame('', $this->text('.field:has([name=number]) .wrong'));
        self::assertTrue($this->browser->executeScript('return changed'));
        $this->browser->executeScript(
            '[...document.querySelectorAll(".said-refused a")].find((a) => a.textContent === "Amount of line 1").click()',
        );
        self::assertSame('lines[0][amount]', $this->focused());
        // the kind changes the form at once
        self::assertFalse(
            $this->browser->executeScript('return document.querySelector("[name=against]").checkVisibility()'),
        );
        $this->browser->executeScript(
            'const k = document.querySelector("#kind"); k.value = "credit_note"; k.dispatchEvent(new Event("change", {bubbles: true}))',
        );
        $this->see('h1', 'Vendor credit note');
        self::assertTrue(
            $this->browser->executeScript('return document.querySelector("[name=against]").checkVisibility()'),
        );
        $this->browser->executeScript('changed = false');
    }

    /** A whole run: a dropped vendor, a part payment, approval by another, a jam at the third check, posting, and a void afterwards. */
    public function testFromWhatIsDueToPostedChecksAndAVoid(): void
    {
        $this->signIn('ilves');
        $this->go('/BOAT/bank');
        $this->accessible();
        $this->tabTo('page');
        $this->type('3', Key::ENTER);
        $this->see('.said-done', 'will jam at page 3');

        $this->go('/BOAT/payables/proposal');
        $this->see('h1', 'What is due');
        $this->accessible();
        $this->tabTo('due_through');
        $this->type('+7', Key::TAB);
        $this->browser
            ->wait(self::PATIENCE, 40)
            ->until(fn (): bool => '22 Jun 2026' === $this->value('due_through'), 'what was typed is understood');
        $before = $this->text('#foot-due');
        // the pay date is moved on the river itself
        for ($k = 0; $k < 80 && 'river' !== $this->browser->executeScript('return document.activeElement.id'); ++$k) {
            $this->type(Key::TAB);
        }
        $this->type(Key::ARROW_RIGHT);
        $this->see('.river .pay-text', '16 Jun');
        $this->browser
            ->wait(self::PATIENCE, 40)
            ->until(
                fn (): bool => 'river' === $this->browser->executeScript('return document.activeElement.id'),
                'the river keeps the focus',
            );
        $this->type(Key::ARROW_LEFT);
        $this->see('.river .pay-text', '15 Jun');
        self::assertSame($before, $this->text('#foot-due'), 'there and back again');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Proposal made');
        $url = (string) parse_url($this->browser->getCurrentURL(), \PHP_URL_PATH);
        $checks = (int) $this->browser->executeScript(
            'return document.querySelectorAll("table.review tr.group").length',
        );
        self::assertGreaterThan(5, $checks, 'the demo has a run of at least six checks');

        // into the list: the head of the first vendor, then its item; Space picks
        $this->downToAnItem();
        $this->type(' ');
        $this->press('drop');
        $this->see('.said-done', '1 dropped');
        // Enter on an item opens it beside the list; the amount is typed there
        $this->downToAnItem();
        $this->type(Key::ENTER);
        $this->browser->wait(self::PATIENCE, 40)->until(fn (): bool => 'pay' === $this->focused());
        $this->type('10', Key::ENTER);
        $this->see('.said-done', 'The line is changed');
        $this->see('table.review', '10.00');
        $this->accessible();

        $this->signIn('soto');
        $this->go($url);
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'is approved');

        $this->signIn('ilves');
        $this->go($url);
        $this->see('h1', 'Payment run');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'The numbers are reserved');
        $pdf = (string) $this->browser->executeAsyncScript(
            'const done = arguments[0]; fetch("'.
                $url.
                '/checks.pdf").then((r) => r.text()).then((t) => done(t.slice(0, 5)))',
        );
        self::assertSame('%PDF-', $pdf);
        $first = (int) $this->browser->executeScript(
            'return document.querySelector("input[name=\'spoiled[]\']").value',
        );
        $this->press('', 'Send to the printer');
        $this->see('.said-done', 'jammed at page 3');
        self::assertSame(
            [(string) ($first + 2)],
            $this->browser->executeScript(
                'return [...document.querySelectorAll("input[name=\'spoiled[]\']:checked")].map((i) => i.value)',
            ),
        );
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'wait for the printer');
        $this->press('', 'Send to the printer');
        $this->see('.said-done', 'came out of the printer');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'All checks came out');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Posted');
        $this->see('.head', 'posted');
        $this->booksAgree();

        $this->go('/BOAT/bank/register/1');
        $this->tabTo('number');
        $this->type((string) $first, Key::TAB, Key::TAB, 'lost in the mail');
        $this->press('void');
        $this->browser->switchTo()->alert()->accept();
        $this->see('.said-done', 'is void');
        $this->see('main', 'lost in the mail');
        $this->booksAgree();
    }

    /** Down the review to the first row that is an item and stands. */
    private function downToAnItem(): void
    {
        for ($k = 0; $k < 40; ++$k) {
            $this->type(Key::ARROW_DOWN);
            if (
                true ===
                $this->browser->executeScript(
                    'return document.activeElement.matches("table.review tr[data-row]:not(.group):not(.gone)")',
                )
            ) {
                return;
            }
        }
        self::fail('No item is left in the review.');
    }

    /** The vendor's invoice and a payment of it, from the vendor's page and without a proposal; a credit settled without money. */
    public function testPaidByHand(): void
    {
        $this->signIn('ilves');
        $this->go('/BOAT/payables/payment?party=V-0001');
        $this->see('#board', 'VI-2');
        $this->accessible();
        $this->tabTo('number');
        $this->type('W-1', Key::TAB, Key::TAB);
        $this->browser->executeScript('document.activeElement.blur()');
        $this->type(Key::ARROW_DOWN, Key::ENTER);
        $this->see('.beam-text', 'left to place 0.00');
        $this->see('#panel', 'settled');
        $this->type('0');
        $this->see('#panel', 'The entry stands here');
        $this->press('', 'Place all');
        $this->see('.beam-text', 'left to place 0.00');
        $this->see('#panel', 'settled');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Payables fell by');
        $this->booksAgree();
    }

    public function testCustomerInvoiceToPlacedReceipt(): void
    {
        $this->signIn('okafor');
        $this->go('/BOAT/receivables/invoice');
        $this->type('C-0004', Key::TAB);
        $this->tabTo('lines[0][account]');
        $this->type('4100', Key::TAB, 'Hull survey', Key::TAB, '750', Key::TAB, 'S8', Key::TAB);
        $this->see('#panel', '810.00');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Receivables rose by 810.00');
        $number = $this->text('h1');

        $this->go('/BOAT/receivables/receipt?party=C-0004');
        $this->see('#board', $number);
        $this->accessible();
        $this->tabTo('amount');
        $this->type('810', Key::TAB);
        $this->see('.beam-text', 'left to place 810.00');
        // into the board and down to the new invoice, Enter places all that fits
        $this->chord(Key::ESCAPE);
        $at = (int) $this->browser->executeScript(
            'return [...document.querySelectorAll("[data-side=owed] tr[data-row]")].findIndex((r) => r.textContent.includes(arguments[0]))',
            [$number],
        );
        $this->browser->executeScript('document.querySelector("[data-side=owed] tr[data-row]").focus()');
        for ($k = 0; $k < $at; ++$k) {
            $this->type(Key::ARROW_DOWN);
        }
        $this->type(Key::ENTER);
        $this->see('#panel', $number.' settled');
        $this->see('.beam-text', 'left to place');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Posted RC-26-');
        $this->see('main', $number);
        $this->booksAgree();
    }

    public function testABlockOfFortyRowsIsPastedAndTheBatchPosted(): void
    {
        // amounts of its own, so that a second run on the same books does not look like the first
        $base = random_int(2000, 90_000);
        $total = 40 * $base + 820;
        $this->signIn('ilves');
        $this->go('/BOAT/payables/batches');
        $this->accessible();
        $this->tabTo('name');
        $this->chord('a', Key::CONTROL);
        $this->type('forty', Key::TAB, Key::TAB, '40', Key::TAB, $total.'.00', Key::TAB);
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('h1', 'forty');
        $key = bin2hex(random_bytes(3));
        $block = implode(
            "\n",
            array_map(
                static fn (int $n): string => \sprintf(
                    "V-%04d\t%s-%d\t6/%d\t5000\t%d.00\t\tYARD\tpasted %d",
                    1 + ($n % 30),
                    $key,
                    $n,
                    1 + ($n % 14),
                    $base + $n,
                    $n,
                ),
                range(1, 40),
            ),
        );
        // the clipboard is the browser's own affair; what a paste hands over is this event
        $this->browser->executeScript(
            'const d = new DataTransfer(); d.setData("text/plain", arguments[0]); '.
                'document.activeElement.dispatchEvent(new ClipboardEvent("paste", {clipboardData: d, bubbles: true, '.
                'cancelable: true}))',
            [$block],
        );
        $this->see('#batch-sum', '40 of 40 documents agrees with the tape');
        self::assertSame(
            '',
            trim(
                (string) $this->browser->executeScript(
                    'return [...document.querySelectorAll("[data-wrong]")].map((t) => t.textContent).join("")',
                ),
            ),
        );
        // one cell is wrong and stands in the way of all
        $this->browser->executeScript('document.querySelector("tr[data-grid-row] [data-col=account]").focus()');
        $this->chord('a', Key::CONTROL);
        $this->type('9999', Key::TAB, Key::ARROW_DOWN);
        $this->see('table.cells', 'There is no account “9999”');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-refused', 'Nothing was posted');
        $this->browser->executeScript('document.querySelector("tr[data-grid-row] [data-col=account]").focus()');
        $this->chord('a', Key::CONTROL);
        $this->type('5000', Key::TAB, Key::ARROW_DOWN);
        $this->see('#batch-sum', \Nelbix\App\Platform\Typography::amount(100 * $total));
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Posted the whole batch, 40 documents');
        $this->booksAgree();
    }

    public function testTenVendorInvoicesInARowWithoutTheMouse(): void
    {
        $this->signIn('ilves');
        $this->go('/BOAT/payables/invoice');
        $key = bin2hex(random_bytes(3));
        for ($n = 1; $n <= 10; ++$n) {
            self::assertSame('party', $this->focused());
            $this->type(\sprintf('V-%04d', 30 + $n), Key::TAB, $key.'/'.$n, Key::TAB, '-'.$n, Key::TAB);
            $this->tabTo('lines[0][account]');
            $this->type(
                0 === $n % 2 ? '5200' : '5000',
                Key::TAB,
                'goods '.$n,
                Key::TAB,
                701 + $n.'.'.(10 + $n).'*2',
                Key::TAB,
            );
            if (0 === $n % 3) {
                $this->type('P8', Key::TAB, 'YARD', Key::TAB);
            }
            $this->see('#panel', 'Payables control');
            $this->chord(Key::ENTER, Key::CONTROL, Key::SHIFT);
            $this->see('.said-done', 'Payables rose by');
        }
        $found = $this->console('nelbix:open-items', 'payables', '--company=BOAT');
        self::assertCount(
            10,
            array_filter($found, static fn (array $r): bool => str_starts_with((string) $r['their_number'], $key.'/')),
        );
        $this->booksAgree();
    }

    public function testAPostedInvoiceIsPutRightAndItsPaperSeen(): void
    {
        $this->signIn('ilves');
        $this->go('/BOAT/payables/invoice');
        $key = bin2hex(random_bytes(3));
        $this->type('V-0041', Key::TAB, $key, Key::TAB, '.', Key::TAB);
        $this->tabTo('lines[0][account]');
        $this->type('5000', Key::TAB, 'charts', Key::TAB, '345.67', Key::TAB);
        $pdf = new \Dompdf\Dompdf();
        $pdf->loadHtml('<h1>Invoice</h1>');
        $pdf->render();
        $path = tempnam(sys_get_temp_dir(), 'paper').'.pdf';
        file_put_contents($path, $pdf->output());
        $this->browser->findElement(WebDriverBy::cssSelector('[data-paper-file]'))->sendKeys($path);
        $this->see('#papers', '.pdf');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Payables rose by 345.67');
        $number = $this->text('h1');
        // a worker draws it; until then the page asks again
        $this->until('document.querySelector("#papers img").naturalWidth > 0');
        $this->accessible();
        $this->go(
            (string) $this->browser->executeScript(
                'return [...document.querySelectorAll(".foot a")].find((a) => a.textContent.trim() === "Put right").getAttribute("href")',
            ),
        );
        $this->see('h1', 'Put right '.$number);
        $this->tabTo('lines[0][account]');
        $this->chord('a', Key::CONTROL);
        $this->type('6400', Key::TAB);
        $this->see('#panel', 'Office');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'right. What is owed stays the same.');
        $this->see('.tools', 'puts right '.$number);
        self::assertCount(
            1,
            $this->browser->findElements(WebDriverBy::cssSelector('#papers figure')),
            'the paper went with it',
        );
        $this->booksAgree();
        unlink($path);
    }

    public function testSignInIsThrottled(): void
    {
        $nobody = 'nobody'.bin2hex(random_bytes(4));
        for ($n = 0; $n < 6; ++$n) {
            $this->go('/sign-in');
            $this->chord('a', Key::CONTROL); // the last name stands there already
            $this->type($nobody, Key::TAB, 'wrong', Key::ENTER);
            $this->see('[role=alert]', $n < 5 ? 'Invalid credentials' : 'Too many failed login attempts');
        }
        $this->accessible();
    }

    public function testEveryMainScreenIsAccessible(): void
    {
        $this->signIn('brandt');
        foreach (
            [
                '/BOAT/payables/items',
                '/BOAT/receivables/aging',
                '/BOAT/payables/parties',
                '/BOAT/payables/party',
                '/BOAT/payables/proposals',
                '/BOAT/payables/due/overdue',
                '/BOAT/payables/due/discounts',
                '/BOAT/payables/statement-check',
                '/BOAT/payables/refund',
                '/BOAT/receivables/settle',
                '/BOAT/bank/files',
                '/BOAT/setup/reminder-ladders',
                '/BOAT/deliveries',
                '/BOAT/deliveries/new',
                '/BOAT/deliveries/1',
                '/BOAT/setup/terms/new',
                '/BOAT/setup/tax-codes',
                '/BOAT/setup/accounts/new',
                '/BOAT/import',
                '/BOAT/tasks',
                '/BOAT/payables/documents',
                '/BOAT/receivables/documents',
                '/BOAT/payables/recurring',
                '/BOAT/receivables/outbox',
                '/BOAT/payables/party/1/edit',
                '/BOAT/bank',
                '/BOAT/bank/register/1',
                '/BOAT/close/tie-out',
                '/BOAT/close/trial-balance',
                '/BOAT/setup',
                '/BOAT/close',
                '/BOAT/close/journal/new',
                '/BOAT/close/revaluation',
                '/BOAT/close/rates',
                '/BOAT/close/gains',
                '/BOAT/setup/accounts',
                '/BOAT/setup/terms',
                '/BOAT/search?q=VI-26-0000',
                '/BOAT/nowhere',
            ] as $path
        ) {
            $this->go($path);
            $this->accessible();
            // at twice the size nothing runs out of the page
            $this->wide(640);
            self::assertSame(
                [],
                $this->browser->executeScript(
                    'return [...document.querySelectorAll("body, .top > *, .rail > *, .foot > *, main > :is(form, div, p, h1, h2)")]'.
                        '.filter((e) => e.getBoundingClientRect().right > innerWidth + 1 && !e.matches(".scrolls, .scrolls *"))'.
                        '.map((e) => e.tagName + "." + e.className + " " + e.textContent.trim().slice(0, 40))',
                ),
                $path.' at 640 wide',
            );
            $this->wide(1280);
        }
    }

    private function wide(int $pixels): void
    {
        $this->browser->manage()->window()->setSize(new WebDriverDimension($pixels, 940));
    }
}
