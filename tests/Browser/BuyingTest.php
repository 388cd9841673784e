<?php

declare(strict_types=1);

namespace Nelbix\Tests\Browser;

use Facebook\WebDriver\WebDriverKeys as Key;

/** What is ordered, comes in two deliveries, is invoiced once and paid: four people, each by keyboard. */
final class BuyingTest extends BrowserCase
{
    private const PRICE = 'lines[%d][price]';
    private const QUANTITY = 'lines[%d][quantity]';

    public function testFromTheOrderToThePaidInvoice(): void
    {
        $order = $this->ordered();
        $line = 1_000_000 + (int) $this->lineOf($order);
        $this->came($order, $line, '6', '');
        $this->came($order, $line, '', '13.20');
        $invoice = $this->invoiced($order);
        $this->accepted($invoice);
        $this->paid($invoice);
        $this->booksAgree();
    }

    /** The invoice is here first: it waits, is held, and both end by themselves when the goods come. */
    public function testAnInvoiceBeforeItsDelivery(): void
    {
        $what = 'ash oars';
        $order = $this->ordered($what);
        $invoice = $this->invoicedFirst($order, $what);
        $line = 1_000_000 + (int) $this->lineOf($order, $what);
        $this->came($order, $line, '', '', $what);
        $this->signIn('ilves');
        $this->go($invoice);
        $this->see('main', 'received by J. Reyes');
        self::assertStringNotContainsString('not here yet', $this->text('main'));
        self::assertStringNotContainsString('Held:', $this->text('main'));
        $this->accessible();
        $this->go('/BOAT/payables/awaited');
        $this->see('h1', 'Invoiced, not received');
        self::assertStringNotContainsString($what, $this->text('main'));
        $this->booksAgree();
    }

    /** Who may do all three does them on the form of the order; what was invoiced goes back against a claim. */
    public function testAllThreeAtOnceAndSomeOfItBack(): void
    {
        $this->signIn('brandt');
        $this->go('/BOAT/orders/new');
        $this->type('V-0032', Key::TAB);
        $this->see('#n-party', 'Marram');
        $this->chord(Key::ARROW_DOWN, Key::CONTROL);
        $this->type('cedar strips', Key::TAB, '10', Key::TAB, 'MTR', Key::TAB, '12.60', Key::TAB);
        $this->see('#sum', '126.00 USD');
        $this->chord('i', Key::ALT);
        $this->type('C-'.random_int(1000, 9999), Key::TAB, '.', Key::TAB, '126', Key::TAB, 'N-1');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Payables rose by 126.00 USD');
        $this->see('main', 'Matched');
        $this->accessible();
        $this->go(
            (string) parse_url(
                (string) $this->browser->executeScript(
                    'return document.querySelector("main a[href*=\"/deliveries/\"]").href',
                ),
                \PHP_URL_PATH,
            ),
        );
        $this->tabTo('lines['.$this->backLine().'][quantity]');
        $this->type('4');
        $this->tabTo('reason');
        $this->type('split', Key::ENTER);
        $this->see('.said-done', 'claims 50.40 USD of the vendor; payables fell by as much');
        $this->see('main', 'returned, and claimed');
        $this->accessible();
        $this->booksAgree();
    }

    private function backLine(): string
    {
        $name = (string) $this->browser->executeScript(
            'return document.querySelector("#back input[name$=\"[quantity]\"]").name',
        );

        return (string) preg_replace('/\D+/', '', $name);
    }

    /** @return string the path of the invoice's page */
    private function invoicedFirst(string $order, string $what): string
    {
        $this->signIn('ilves');
        $this->go('/BOAT/payables/invoice');
        $this->type('V-0032', Key::TAB, 'O-'.random_int(1000, 9999), Key::TAB, '.', Key::TAB);
        $this->see('#below', 'Match');
        $this->chord('m', Key::ALT);
        $this->see('#match-title', 'is to deliver');
        $this->see('#match-rows', 'not here yet');
        $this->accessible();
        $this->chord(Key::TAB, Key::SHIFT);
        $this->type($order, Key::ENTER, ' ');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('#sum', '125.00');
        $this->see('table.lines', 'not here yet');
        $this->see('#mismatch', $what.': 10 invoiced and not received');
        $this->see('#panel', 'Invoiced, not received');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->until('document.querySelector(".said-done, .said-refused") !== null');
        $this->see('.said-done', 'is held');
        self::assertStringContainsString('nvoiced not received rose by 125.00 USD', $this->text('.said-done'));
        $this->see('main', 'not here yet');
        $this->accessible();
        $invoice = (string) parse_url($this->browser->getCurrentURL(), \PHP_URL_PATH);
        $this->go('/BOAT/payables/awaited');
        $this->see('table.list', $what);
        $this->see('table.list', 'holds the same');
        $this->accessible();

        return $invoice;
    }

    /** @return string the order's number */
    private function ordered(string $what = 'larch planks'): string
    {
        $this->signIn('haven');
        $this->go('/BOAT/orders');
        $this->type('n');
        $this->see('h1', 'Order');
        $this->type('V-0032', Key::TAB);
        $this->see('#n-party', 'Marram');
        $this->chord(Key::ARROW_DOWN, Key::CONTROL);
        $this->type($what, Key::TAB, '10', Key::TAB, 'MTR', Key::TAB, '12.50', Key::TAB);
        $this->see('#sum', '125.00 USD');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Ordered for 125.00 USD');
        $this->accessible();

        return $this->text('h1');
    }

    private function lineOf(string $order, string $what = 'larch planks'): string
    {
        $this->signIn('reyes');
        $this->go('/BOAT/deliveries/new?find='.$order);
        $this->see('#ordered', $what);
        $id = (string) $this->browser->executeScript(
            'return document.querySelector("#ordered tbody input[type=hidden]").value',
        );
        self::assertNotSame('', $id);

        return $id;
    }

    /** The vendor is left open: the number of the order finds it. */
    private function came(
        string $order,
        int $line,
        string $quantity,
        string $price,
        string $what = 'larch planks',
    ): void {
        $this->go('/BOAT/deliveries/new');
        $this->see('#ordered', 'To come');
        $this->type(Key::TAB, $order);
        $this->see('#ordered', $what);
        $this->until('document.querySelectorAll("#ordered tbody tr").length === 1');
        $this->tabTo(\sprintf(self::QUANTITY, $line));
        $this->type('' === $quantity ? ' ' : $quantity);
        $this->tabTo(\sprintf(self::PRICE, $line));
        if ('' !== $price) {
            $this->type($price);
        }
        $this->see('#panel', 'Received, not invoiced');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Recorded GR-26-');
        self::assertStringNotContainsString('Payables', $this->text('.rail'), 'the receiver sees no payables');
        $this->accessible();
    }

    /** @return string the path of the invoice's page */
    private function invoiced(string $order): string
    {
        $this->signIn('ilves');
        $this->go('/BOAT/payables/invoice');
        $this->type('V-0032', Key::TAB, 'L-'.random_int(1000, 9999), Key::TAB, '.', Key::TAB);
        $this->see('#below', 'that nobody invoiced');
        $this->chord('m', Key::ALT);
        $this->see('#match-title', 'delivered');
        $this->accessible();
        $this->chord(Key::TAB, Key::SHIFT);
        $this->type($order, Key::ENTER, 'a');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('#sum', '127.80');
        // the invoice says 13.20 of all of them, and freight beside
        $this->type('6 × 13.20', Key::TAB);
        $this->see('#mismatch', 'larch planks: 13.20 each, agreed 12.50, 5.6 % more');
        $this->chord(Key::ARROW_DOWN, Key::CONTROL);
        $this->chord(Key::ARROW_DOWN, Key::CONTROL);
        $this->type('5000', Key::TAB, 'freight', Key::TAB, '8', Key::TAB);
        $this->see('#sum', '140.00');
        $this->see('#panel', 'Price variance');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->until('document.querySelector(".said-done, .said-refused") !== null');
        $this->see('.said-done', 'It does not fit its order and is held');
        self::assertStringContainsString('received not invoiced fell by 127.80 USD', $this->text('.said-done'));
        $this->accessible();

        return (string) parse_url($this->browser->getCurrentURL(), \PHP_URL_PATH);
    }

    private function accepted(string $invoice): void
    {
        $this->signIn('haven');
        $this->see('main', 'do not fit their orders');
        $this->go($invoice);
        $this->tabTo('reason');
        $this->type('larch is dearer this year');
        $this->press('accepted');
        $this->see('.said-done', 'It is accepted and can be paid');
    }

    private function paid(string $invoice): void
    {
        $this->signIn('ilves');
        $this->go($invoice);
        for ($k = 0; $k < 80 && 'Pay' !== $this->focusedText(); ++$k) {
            $this->chord(Key::TAB, Key::SHIFT);
        }
        $this->type(Key::ENTER);
        // with the discount that holds: 2 % of 140.00
        $this->see('#panel', '137.20');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Posted PY-26-');
        $this->go($invoice);
        $this->see('main', 'Settlements');
    }

    private function focusedText(): string
    {
        return (string) $this->browser->executeScript('return document.activeElement.textContent.trim()');
    }
}
