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
        // the rest of the head is as the vendor has it
        $this->keyed(...array_fill(0, 7, Key::TAB));
        $this->see('#n-party', 'Fenwick Timber');
        self::assertSame('lines[0][account]', $this->focused());
        $this->keyed(Key::TAB, 'oak', Key::TAB, '640', Key::TAB, Key::TAB, Key::TAB, Key::TAB, Key::TAB, Key::TAB);
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
        $items = array_filter(
            $this->console('nelbix:open-items', 'receivables', '--company=BOAT'),
            static fn (array $i): bool => 'USD' === $i['currency'] && (float) $i['open'] > 0,
        );
        $by = [];
        foreach ($items as $i) {
            $by[$i['party']][] = (int) round(100 * (float) $i['open']);
        }
        $three = array_filter($by, static fn (array $opens): bool => 3 === \count($opens));
        self::assertNotSame([], $three, 'a customer has three items open');
        $code = (string) array_key_first($three);
        $amount = number_format(array_sum($three[$code]) / 100, 2, '.', '');
        $this->signIn('okafor');
        $this->begin('/BOAT/receivables/receipt');
        $this->keyed($code, Key::TAB, Key::TAB, Key::TAB, $amount, Key::TAB);
        $this->see('.idea', 'Nelbix would place it so');
        $this->keyed(Key::ESCAPE, 'i');
        $this->see('#beam', 'left to place 0.00');
        $this->with(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Posted RC-26-');
        $this->within('receipt over three items');
        $this->booksAgree();
    }
}
