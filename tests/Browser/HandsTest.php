<?php

declare(strict_types=1);

namespace Nelbix\Tests\Browser;

use Facebook\WebDriver\WebDriverKeys as Key;

/**
 * A clerk's day in keys and page loads, counted; docs/hands.md holds the figures, and none of them may get worse. A key is whatever is
 * pressed once: a letter, Tab, a chord. What the clerk types of the paper counts too.
 */
final class HandsTest extends BrowserCase
{
    private int $keys = 0;
    private int $loads = 0;

    /** @return array{int, int} keys and loads that docs/hands.md allows the job */
    private static function allowed(string $job): array
    {
        $page = (string) file_get_contents(\dirname(__DIR__, 2).'/docs/hands.md');
        if (1 !== preg_match('/^\| '.preg_quote($job, '/').' \| (\d+) \| (\d+) \|/m', $page, $m)) {
            self::fail($job.' has no figures in docs/hands.md');
        }

        return [(int) $m[1], (int) $m[2]];
    }

    private function begin(string $path): void
    {
        $this->go($path);
        $this->keys = 0;
        $this->loads = 1;
    }

    protected function press(string $value, string $text = ''): void
    {
        self::fail('the mouse is not in the clerk’s hand');
    }

    private function keyed(string ...$keys): void
    {
        foreach ($keys as $key) {
            $this->keys += mb_strlen($key);
            $this->type($key);
        }
    }

    private function with(string $key, string ...$chord): void
    {
        ++$this->keys;
        ++$this->loads;
        $this->chord($key, ...$chord);
    }

    /** To the lines, or to the next one. */
    private function down(): void
    {
        ++$this->keys;
        $this->chord(Key::ARROW_DOWN, Key::CONTROL);
    }

    private function within(string $job): void
    {
        [$keys, $loads] = self::allowed($job);
        self::assertLessThanOrEqual($keys, $this->keys, $job.': keys');
        self::assertLessThanOrEqual($loads, $this->loads, $job.': page loads');
    }

    public function testAnInvoiceOfTwoLines(): void
    {
        $this->signIn('ilves');
        $this->begin('/BOAT/payables/invoice');
        $number = 'H'.random_int(1000, 9999);
        $this->keyed('fenw', Key::TAB, $number, Key::TAB, '12', Key::TAB);
        // the rest of the head is as the vendor has it: on to the lines
        $this->down();
        $this->see('#n-party', 'Fenwick Timber');
        self::assertSame('lines[0][account]', $this->focused());
        $this->keyed(Key::TAB, 'oak', Key::TAB, '640');
        $this->down();
        self::assertSame('lines[1][account]', $this->focused());
        $this->keyed('6400', Key::TAB, 'cups', Key::TAB, '23.10', Key::TAB);
        $this->see('#panel', '663.10');
        $this->with(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Posted VI-26-');
        $this->within('invoice of two lines');
    }

    public function testPaidByHand(): void
    {
        $this->signIn('ilves');
        $this->begin('/BOAT/payables/payment');
        $this->keyed('fath', Key::TAB);
        $this->see('#n-party', 'Fathom');
        // the one item is placed whole; its amount is the payment's
        $this->keyed(Key::ESCAPE, Key::ARROW_DOWN);
        $this->keyed(Key::ARROW_RIGHT, Key::ENTER);
        $this->until('document.querySelector("[data-side=owed] input[name^=placed]").value !== ""');
        $this->see('#panel', 'Payables control');
        $this->with(Key::ENTER, Key::CONTROL);
        $this->until('document.querySelector(".said-done, .said-refused") !== null');
        $this->see('.said-done', 'Posted PY-26-');
        $this->within('one item paid by hand');
    }

    public function testAReceiptOverThreeItems(): void
    {
        $this->signIn('okafor');
        $two = array_filter(self::owed($this->console(...)), static fn (array $opens): bool => 2 === \count($opens));
        self::assertNotSame([], $two, 'a customer has two items open, and gets a third');
        $code = (string) array_key_first($two);
        $this->entered('/BOAT/receivables/invoice', ['kind' => 'invoice', 'party' => $code, 'amount' => '77']);
        $amount = number_format(array_sum(self::owed($this->console(...))[$code]) / 100, 2, '.', '');
        $this->begin('/BOAT/receivables/receipt');
        $this->keyed($code, Key::TAB, $amount);
        $this->see('.idea', 'Nelbix would place it so');
        $this->keyed('i');
        $this->see('#beam', 'left to place 0.00');
        $this->with(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Posted RC-26-');
        $this->within('receipt over three items');
        $this->booksAgree();
    }

    public function testThreeReceiptsFoundByTheirAmounts(): void
    {
        $this->signIn('okafor');
        $amounts = [];
        foreach (['C-0048', 'C-0047', 'C-0046'] as $code) {
            $amounts[] = $amount = random_int(3_000, 3_999).'.'.random_int(10, 99);
            $this->entered('/BOAT/receivables/invoice', ['kind' => 'invoice', 'party' => $code, 'amount' => $amount]);
        }
        $this->begin('/BOAT/receivables/receipt');
        $this->browser->executeScript('window.loadedOnce = true');
        foreach ($amounts as $amount) {
            $this->keyed($amount, Key::TAB);
            $this->see('#n-party', ' ');
            $this->see('.idea', 'Nelbix would place it so');
            $this->keyed('i');
            $this->see('#beam', 'left to place 0.00');
            ++$this->keys;
            $this->browser->executeScript('document.querySelectorAll(".said-done").forEach((said) => said.remove())');
            $this->chord(Key::ENTER, Key::CONTROL, Key::SHIFT);
            $this->see('.said-done', 'Posted RC-26-');
            self::assertSame('party', $this->focused());
            self::assertSame('', $this->value('amount'));
        }
        self::assertTrue($this->browser->executeScript('return window.loadedOnce === true'), 'nothing was loaded');
        // the page as it stands can be loaded again
        $this->browser->navigate()->refresh();
        $this->see('h1', 'Receipt');
        $this->within('three receipts found by their amounts');
        $this->booksAgree();
    }

    /**
     * @param \Closure(string...): array<mixed> $console
     *
     * @return array<string, list<int>> what customers owe in dollars, in cents, by code
     */
    private static function owed(\Closure $console): array
    {
        $by = [];
        foreach ($console('nelbix:open-items', 'receivables', '--company=BOAT') as $i) {
            if ('USD' === $i['currency'] && (float) $i['open'] > 0) {
                $by[$i['party']][] = (int) round(100 * (float) $i['open']);
            }
        }

        return $by;
    }

    /** Dated today, each vendor's account, a row after the other. */
    public function testTenInvoicesInTheGrid(): void
    {
        $this->signIn('ilves');
        $this->begin('/BOAT/payables/batches');
        $this->with(Key::ENTER, Key::CONTROL);
        $this->until('document.querySelector("table[data-grid]") !== null');
        $key = random_int(10, 99);
        foreach (['fen', 'bri', 'cor', 'gre', 'tol', 'cop', 'dun', 'ket', 'qui', 'vas'] as $n => $vendor) {
            $this->keyed($vendor, Key::TAB, $key.'-'.$n, Key::TAB, Key::TAB, Key::TAB, (string) (310 + 7 * $n));
            if ($n < 9) {
                $this->down();
            }
        }
        $this->keyed(Key::TAB);
        $this->see('#batch-sum', '10 documents');
        $this->with(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Posted the whole batch, 10 documents');
        $this->within('ten invoices in the grid');
        $this->booksAgree();
    }

    /** What is due is narrowed to three vendors, two items are dropped, another person approves; printed and posted. */
    public function testACheckRunOfThreeVendors(): void
    {
        $this->signIn('ilves');
        $this->begin('/BOAT/payables/proposal');
        $this->keyed(Key::ESCAPE, 'f', 'cop,bri,ket', Key::TAB);
        $this->until('/^V-\\d+,V-\\d+,V-\\d+$/.test(document.getElementsByName("vendors")[0].value)');
        $this->see('#due-note', ' in,');
        $this->with(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Proposal made');
        $url = (string) parse_url($this->browser->getCurrentURL(), \PHP_URL_PATH);
        for ($n = 0; $n < 2; ++$n) {
            do {
                $this->keyed(Key::ARROW_DOWN);
                $item = $this->browser->executeScript(
                    'return document.activeElement.matches("table.review tr[data-row]:not(.group):not(.gone)")',
                );
            } while (true !== $item);
            $this->keyed(' ');
        }
        $this->keyed(Key::DELETE);
        ++$this->loads;
        $this->see('.said-done', '2 dropped');

        [$keys, $loads] = [$this->keys, $this->loads];
        $this->signIn('soto');
        $this->go($url);
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'is approved');
        $this->signIn('ilves');
        $this->begin($url);
        [$this->keys, $this->loads] = [$keys, $loads + 1];
        $this->with(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'The numbers are reserved');
        $this->with(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'All checks came out');
        $this->with(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Posted');
        $this->within('check run of three vendors, two items dropped');
        $this->booksAgree();
    }

    /** From the page of the credit note: Settle has it taken, the invoice is the next thing. */
    public function testACreditIsSetOffAgainstAnInvoice(): void
    {
        $this->signIn('ilves');
        $credited = random_int(11, 99).'.'.random_int(11, 99);
        $this->entered('/BOAT/payables/invoice', ['kind' => 'credit_note', 'party' => 'V-0041', 'amount' => $credited]);
        $credit = (string) parse_url($this->browser->getCurrentURL(), \PHP_URL_PATH);
        $this->entered('/BOAT/payables/invoice', [
            'kind' => 'invoice',
            'party' => 'V-0041',
            'amount' => '3'.$credited,
        ]);
        $this->go($credit);
        $this->begin(
            (string) $this->browser->executeScript(
                'return new URL([...document.querySelectorAll("a.btn")].find((a) => a.textContent === "Settle").href).pathname'.
                    ' + new URL([...document.querySelectorAll("a.btn")].find((a) => a.textContent === "Settle").href).search',
            ),
        );
        $this->until('document.querySelector("[data-side=owed] tr[data-row]") !== null');
        $this->keyed(Key::ESCAPE, Key::ARROW_DOWN, Key::ARROW_RIGHT, Key::ENTER);
        $this->see('#panel', 'After posting');
        $this->with(Key::ENTER, Key::CONTROL);

        $this->see('.said-done', 'Settled '.$credited);
        $this->within('credit set off against an invoice');
        $this->booksAgree();
    }

    public function testARefundIsAskedFor(): void
    {
        $this->signIn('okafor');
        $this->entered('/BOAT/receivables/invoice', ['kind' => 'credit_note', 'party' => 'C-0003', 'amount' => '12']);
        $this->begin((string) parse_url($this->browser->getCurrentURL(), \PHP_URL_PATH));
        $this->keyed('r', Key::TAB, 'paid twice', Key::ENTER);
        ++$this->loads;
        $this->see('.said-done', 'efund');
        $this->within('refund of a credit asked for');
    }
}
