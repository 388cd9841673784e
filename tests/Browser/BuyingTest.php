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

    /** @return string the order's number */
    private function ordered(): string
    {
        $this->signIn('haven');
        $this->go('/BOAT/orders');
        $this->type('n');
        $this->see('h1', 'Order');
        $this->type('V-0032', Key::TAB);
        $this->see('#n-party', 'Marram');
        $this->chord(Key::ARROW_DOWN, Key::CONTROL);
        $this->type('larch planks', Key::TAB, '10', Key::TAB, 'MTR', Key::TAB, '12.50', Key::TAB);
        $this->see('#sum', '125.00 USD');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Ordered for 125.00 USD');
        $this->accessible();

        return $this->text('h1');
    }

    private function lineOf(string $order): string
    {
        $this->signIn('reyes');
        $this->go('/BOAT/deliveries/new?find='.$order);
        $this->see('#ordered', 'larch planks');
        $id = (string) $this->browser->executeScript(
            'return document.querySelector("#ordered tbody input[type=hidden]").value',
        );
        self::assertNotSame('', $id);

        return $id;
    }

    /** The vendor is left open: the number of the order finds it. */
    private function came(string $order, int $line, string $quantity, string $price): void
    {
        $this->go('/BOAT/deliveries/new');
        $this->see('#ordered', 'To come');
        $this->type(Key::TAB, $order);
        $this->see('#ordered', 'larch planks');
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
        $this->see('#panel', '140.00');
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
