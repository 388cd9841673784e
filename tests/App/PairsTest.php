<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\ChangePosted;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Money\PairsQuery;
use Nelbix\App\Money\SettlePairs;
use Nelbix\App\Platform\FormKey;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** Credits of all parties and what they fit, settled in one go. */
final class PairsTest extends ScreenCase
{
    /** @return list<string> */
    private function keys(Side $side = Side::Receivables): array
    {
        return array_column(
            self::get(PairsQuery::class)->of($this->clerk->companyId, $side, Day::of(self::DAY)),
            'key',
        );
    }

    public function testAllThatFitsIsSettledAtOnce(): void
    {
        // placed late, the discount of the day it came is not lost
        $early = $this->itemOf($this->invoice(Side::Receivables, '1000.00', ['document_date' => '2026-06-01']));
        $this->money(Side::Receivables, 98000, [], [], '2026-06-09');
        $plain = $this->itemOf($this->invoice(Side::Receivables, '70.00', ['terms' => 'N30']));
        $this->invoice(Side::Receivables, '70.00', ['kind' => 'credit_note', 'terms' => 'N30']);
        $rest = $this->itemOf($this->invoice(Side::Receivables, '333.00', ['terms' => 'N30']));
        self::assertCount(2, $this->keys());
        $page = $this->post('/TEST/receivables/pairs', '/TEST/receivables/pairs', ['pairs' => $this->keys()]);
        self::assertStringContainsString('Settled 2 credits.', $page->filter('.said-done')->text());
        self::assertSame([0, 0, 33300], array_map($this->open(...), [$early, $plain, $rest]));
        self::assertSame(2000, $this->balance('4900'), 'discounts allowed');
        self::assertSame([], $this->keys());
        self::assertStringContainsString('No credit and no unapplied money', $page->filter('p.empty')->text());
    }

    public function testOnlyWhatThePageShowedIsSettled(): void
    {
        $one = $this->itemOf($this->invoice(Side::Receivables, '70.00', ['terms' => 'N30']));
        $this->money(Side::Receivables, 7000);
        $two = $this->itemOf($this->invoice(Side::Receivables, '80.00', ['terms' => 'N30']));
        $this->money(Side::Receivables, 8000);
        $seen = $this->keys();
        // somebody else takes a cent of one of them: the other is not settled either
        $this->money(Side::Receivables, 1, [new PlacementRequest($two, 1)]);
        $settle = self::get(SettlePairs::class);
        self::assertSame(
            ['pairs'],
            self::refusedFields(fn () => $settle->settle($this->clerk, Side::Receivables, $seen, null)),
        );
        self::assertSame([7000, 7999], array_map($this->open(...), [$one, $two]));
        self::assertSame(
            ['pairs'],
            self::refusedFields(fn () => $settle->settle($this->clerk, Side::Receivables, [], null)),
        );
        // sent twice it is done once
        $key = new FormKey('0123456789abcdef0123456789abcdef', 'x');
        self::assertSame(1, $settle->settle($this->clerk, Side::Receivables, $this->keys(), $key));
        self::assertSame(0, $settle->settle($this->clerk, Side::Receivables, $seen, $key));
    }

    public function testWhatMayNotBeSettledIsNotThere(): void
    {
        $invoice = $this->invoice(Side::Payables, '70.00', ['terms' => 'N30']);
        $this->money(Side::Payables, 7000, [], [], self::DAY, DocumentKind::Payment);
        self::assertCount(1, $seen = $this->keys(Side::Payables));
        self::get(ChangePosted::class)->hold($this->clerk, $invoice, 'wrong price');
        self::assertSame([], $this->keys(Side::Payables));
        self::assertSame(
            ['pairs'],
            self::refusedFields(
                fn () => self::get(SettlePairs::class)->settle($this->clerk, Side::Payables, $seen, null),
            ),
        );
    }
}
