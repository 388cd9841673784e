<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\PrepaidTax;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\TaxOfPrepayment;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\ExchangeRate;
use Nelbix\App\Money\Bounce;
use Nelbix\App\Money\ClaimKind;
use Nelbix\App\Money\ClaimRequest;
use Nelbix\App\Money\Contra;
use Nelbix\App\Money\DecideWriteOff;
use Nelbix\App\Money\HandOver;
use Nelbix\App\Money\MakeClaim;
use Nelbix\App\Money\MakeDeposit;
use Nelbix\App\Money\MoneyInput;
use Nelbix\App\Money\MovePrepayment;
use Nelbix\App\Money\OnHandQuery;
use Nelbix\App\Money\PairsQuery;
use Nelbix\App\Money\PostMoney;
use Nelbix\App\Money\RequestRefund;
use Nelbix\App\Money\SettlePairs;
use Nelbix\App\Money\UndoDeposit;
use Nelbix\App\Money\WriteOff;
use Nelbix\App\Parties\Nobody;
use Nelbix\App\Parties\Party;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;
use PHPUnit\Framework\Attributes\DataProvider;

/**
 * Receipts over several customers, shelves, claims, hand-overs, write-offs, contras, bounces and undos, at random and in any order, in two
 * currencies: what must always hold holds, today and on every past day.
 */
final class RandomReceiptsTest extends AppCase
{
    private Day $day;

    /** @var array<string, int> */
    private array $done = [];

    /** @return iterable<string, array{int}> */
    public static function seeds(): iterable
    {
        foreach ([3, 11, 27, 41] as $seed) {
            yield 'seed '.$seed => [$seed];
        }
    }

    #[DataProvider('seeds')]
    public function testTheBooksHoldWhateverComes(int $seed): void
    {
        mt_srand($seed);
        $this->day = Day::of('2026-06-01');
        foreach (['C-2', 'C-3'] as $code) {
            self::get(SaveParty::class)->save($this->clerk, Side::Receivables, [
                'code' => $code,
                'name' => 'Customer '.$code,
                'terms' => '2-10-N30',
                'default_account' => '4000',
            ]);
        }
        $id = fn (string $code): int => (int) $this->db()->fetchOne(
            'SELECT id FROM party WHERE company_id = ? AND code = ?',
            [$this->clerk->companyId, $code],
        );
        self::get(SaveParty::class)->link($this->clerk, $id('V-1'), $id('C-1'));
        $em = self::get(EntityManagerInterface::class);
        foreach (['2026-05-01' => '1.10', '2026-06-05' => '1.07', '2026-06-20' => '1.13'] as $on => $rate) {
            $em->persist(new ExchangeRate($this->clerk->companyId, Day::of($on), 'EUR', 'USD', $rate));
        }
        $em->flush();
        $this->db()->executeStatement(
            "UPDATE tax_code SET taxes_prepayments = 1, bad_debt_corrects_tax = 1 WHERE code = 'S8'",
        );
        $em->clear();
        self::get(CodeBook::class)->reset();
        self::get(Settings::class)->keep($this->clerk->companyId, ['deposit_slips' => 'yes']);
        $steps = [
            'sell',
            'sell',
            'sell',
            'buy',
            'creditIt',
            'receive',
            'receive',
            'receive',
            'unknown',
            'handOver',
            'claim',
            'move',
            'writeOff',
            'decide',
            'refund',
            'pairs',
            'contra',
            'undo',
            'bounce',
            'takeBack',
            'deposit',
            'undoDeposit',
            'nextDay',
            'nextDay',
        ];
        for ($n = 0; $n < 260; ++$n) {
            $step = $steps[mt_rand(0, \count($steps) - 1)];
            try {
                if (false !== $this->{$step}()) {
                    $this->done[$step] = ($this->done[$step] ?? 0) + 1;
                }
            } catch (Refused $e) {
                self::assertNotSame('', $e->getMessage());
                $em->clear();
            }
        }
        self::assertGreaterThan(14, \count($this->done), (string) json_encode($this->done));
        for ($k = 0; $k <= 60; $k += 5) {
            foreach (
                self::get(TieOutQuery::class)->of($this->clerk->companyId, Day::of('2026-05-25')->plusDays($k)) as $t
            ) {
                self::assertSame(0, $t['tie']->difference(), $t['name'].' on day '.$k);
            }
        }
        $this->everyPastDay();
        $this->taxOfPrepayments();
    }

    /** What stands on tax on prepayments is the tax of what is not placed yet, to the cent of base. */
    private function taxOfPrepayments(): void
    {
        $items = array_map(
            'intval',
            $this->db()->fetchFirstColumn(
                "SELECT i.id FROM open_item i JOIN document d ON d.id = i.document_id AND d.state = 'posted' WHERE i.kind = 'prepayment'",
            ),
        );
        $left = array_map(
            static fn (TaxOfPrepayment $t): int => $t->leftBase,
            self::get(PrepaidTax::class)->of($this->clerk, $items),
        );
        self::assertSame($this->balance('2155'), array_sum($left));
        foreach ($left as $item => $base) {
            self::assertTrue(0 !== $this->open($item) || 0 === $base, 'nothing is left of what is placed');
        }
    }

    /** Open stays between zero and the original at the end of every day on which the item moved. */
    private function everyPastDay(): void
    {
        $rows = $this->db()->fetchAllNumeric(
            <<<'SQL'
            SELECT i.number, d.day, i.original,
                i.original - (SELECT COALESCE(SUM(l.applied), 0) FROM settlement_line l JOIN settlement s ON s.id = l.settlement_id
                    WHERE l.item_id = i.id AND s.settled_on <= d.day AND (s.undone_on IS NULL OR s.undone_on > d.day)) AS open
            FROM open_item i
            JOIN (
                SELECT l.item_id, s.settled_on AS day FROM settlement_line l JOIN settlement s ON s.id = l.settlement_id
                UNION
                SELECT l.item_id, s.undone_on FROM settlement_line l JOIN settlement s ON s.id = l.settlement_id
                WHERE s.undone_on IS NOT NULL
            ) d ON d.item_id = i.id
            SQL
            ,
        );
        self::assertGreaterThan(50, \count($rows));
        foreach ($rows as [$number, $day, $original, $open]) {
            self::assertTrue(
                (int) $open * ((int) $original <=> 0) >= 0 && abs((int) $open) <= abs((int) $original),
                "$number had $open of $original open on $day",
            );
        }
    }

    /** @param list<mixed> $with */
    private function one(string $sql, array $with = []): ?int
    {
        $ids = $this->db()->fetchFirstColumn($sql, $with);

        return [] === $ids ? null : (int) $ids[mt_rand(0, \count($ids) - 1)];
    }

    private function item(string $where): ?int
    {
        return $this->one("SELECT id FROM open_item WHERE side = 'receivables' AND reserved_by_id IS NULL AND $where");
    }

    private function part(int $item): int
    {
        $open = abs($this->open($item));

        return 0 === mt_rand(0, 2) ? mt_rand(1, $open) : $open;
    }

    private function party(): int
    {
        return (int) $this->one("SELECT id FROM party WHERE side = 'receivables' AND nobody = 0");
    }

    private function sell(): void
    {
        $this->invoice(Side::Receivables, \sprintf('%d.%02d', mt_rand(5, 900), mt_rand(0, 99)), [
            'party' => 'C-'.mt_rand(1, 3),
            'document_date' => $this->day->plusDays(-mt_rand(0, 20))->iso(),
            'currency' => ['USD', 'USD', 'EUR'][mt_rand(0, 2)],
            'lines' => [
                [
                    'account' => '4000',
                    'amount' => \sprintf('%d.%02d', mt_rand(5, 900), mt_rand(0, 99)),
                    'tax_code' => ['', 'S8'][mt_rand(0, 1)],
                ],
            ],
        ]);
    }

    private function buy(): void
    {
        $this->invoice(Side::Payables, \sprintf('%d.%02d', mt_rand(5, 900), mt_rand(0, 99)), [
            'document_date' => $this->day->iso(),
        ]);
    }

    private function creditIt(): void
    {
        $this->invoice(Side::Receivables, \sprintf('%d.%02d', mt_rand(5, 200), mt_rand(0, 99)), [
            'party' => 'C-'.mt_rand(1, 3),
            'kind' => 'credit_note',
            'document_date' => $this->day->iso(),
        ]);
    }

    private function receive(): void
    {
        $currency = ['USD', 'EUR'][mt_rand(0, 1)];
        $placements = $adjustments = [];
        $net = 0;
        foreach (
            $this->db()->fetchAllNumeric(
                "SELECT id, open FROM open_item WHERE side = 'receivables' AND open > 0 AND currency = ? ORDER BY RAND(?) LIMIT 3",
                [$currency, mt_rand()],
            ) as [$id, $open]
        ) {
            $gross = 0 === mt_rand(0, 2) ? mt_rand(1, (int) $open) : (int) $open;
            $placements[] = new PlacementRequest((int) $id, $gross);
            $off = min($gross, mt_rand(0, 900));
            $kind = [
                AdjustmentKind::BadDebt,
                AdjustmentKind::BankCharge,
                AdjustmentKind::Account,
                AdjustmentKind::Discount,
            ][mt_rand(0, 3)];
            if ($off > 0 && 0 === mt_rand(0, 1)) {
                $account =
                    AdjustmentKind::Account === $kind
                        ? (int) $this->db()->fetchOne(
                            "SELECT id FROM account WHERE company_id = ? AND number = '6400'",
                            [$this->clerk->companyId],
                        )
                        : null;
                $adjustments[] = new AdjustmentRequest((int) $id, $kind, -$off, $account, 'why not');
                $gross -= $off;
            }
            $net += $gross;
        }
        $amount = max(1, $net + [0, 0, 1234][mt_rand(0, 2)]);
        self::get(PostMoney::class)->post(
            $this->clerk,
            new MoneyInput(
                Side::Receivables,
                DocumentKind::Receipt,
                $this->party(),
                (int) $this->one('SELECT id FROM bank_account'),
                $this->day,
                $currency,
                $amount,
                placements: $placements,
                adjustments: $adjustments,
                method: ['transfer', 'check', 'cash'][mt_rand(0, 2)],
                restIsPrepayment: ($prepaid = 1 === mt_rand(0, 1)),
                prepaidTaxCode: $prepaid && 1 === mt_rand(0, 1)
                    ? $this->one("SELECT id FROM tax_code WHERE code = 'S8'")
                    : null,
                bankAmount: 'EUR' === $currency && 1 === mt_rand(0, 1) ? max(1, $amount + mt_rand(-50, 50)) : null,
            ),
        );
    }

    private function deposit(): ?bool
    {
        $rows = self::get(OnHandQuery::class)->of($this->clerk->companyId, $this->day);
        $some = array_filter($rows, static fn (): bool => 0 < mt_rand(0, 2));
        if ([] === $some) {
            return false;
        }
        self::get(MakeDeposit::class)->deposit(
            $this->clerk,
            array_values(array_column($some, 'key')),
            $this->day,
            null,
        );

        return null;
    }

    private function undoDeposit(): ?bool
    {
        if (
            0 < mt_rand(0, 1)
            || null === ($slip = $this->one('SELECT id FROM deposit_slip WHERE reversed_on IS NULL'))
        ) {
            return false;
        }
        self::get(UndoDeposit::class)->undo($this->clerk, $slip, 'another account');

        return null;
    }

    private function unknown(): void
    {
        self::get(PostMoney::class)->post(
            $this->clerk,
            new MoneyInput(
                Side::Receivables,
                DocumentKind::Receipt,
                self::get(Nobody::class)->of($this->clerk->companyId)->id(),
                (int) $this->one('SELECT id FROM bank_account'),
                $this->day,
                'USD',
                mt_rand(100, 90_000),
            ),
        );
    }

    private function handOver(): ?bool
    {
        $item = $this->item('open < 0 AND party_id IN (SELECT id FROM party WHERE nobody = 1)');
        $customer = self::get(EntityManagerInterface::class)->find(Party::class, $this->party());
        if (null === $item || null === $customer) {
            return false;
        }
        self::get(HandOver::class)->to($this->clerk, $item, $customer, $this->part($item), $this->day, '');

        return null;
    }

    private function claim(): ?bool
    {
        if (null === ($item = $this->item("open > 0 AND kind = 'invoice'"))) {
            return false;
        }
        self::get(MakeClaim::class)->make(
            $this->clerk,
            new ClaimRequest($item, $this->part($item), ClaimKind::Other, 'x'),
            $this->day,
        );

        return null;
    }

    private function move(): ?bool
    {
        $item = $this->item("open < 0 AND kind IN ('receipt', 'prepayment', 'hand_over', 'to_prepayment', 'from_prepayment')
            AND party_id NOT IN (SELECT id FROM party WHERE nobody = 1)");
        if (null === $item) {
            return false;
        }
        self::get(MovePrepayment::class)->move($this->clerk, $item, $this->part($item), $this->day, '');

        return null;
    }

    private function writeOff(): ?bool
    {
        if (null === ($item = $this->item('open > 0'))) {
            return false;
        }
        self::get(WriteOff::class)->write(
            $this->clerk,
            [$item => $this->part($item)],
            AdjustmentKind::BadDebt,
            null,
            $this->day,
            'gone away',
        );

        return null;
    }

    private function decide(): ?bool
    {
        if (null === ($claim = $this->one("SELECT id FROM claim WHERE state = 'awaiting'"))) {
            return false;
        }
        $version = (int) $this->db()->fetchOne('SELECT version FROM claim WHERE id = ?', [$claim]);
        self::get(DecideWriteOff::class)->decide($this->approver, $claim, $version, 0 !== mt_rand(0, 2), 'so it is');

        return null;
    }

    private function refund(): ?bool
    {
        if (null === ($item = $this->item('open < 0 AND party_id NOT IN (SELECT id FROM party WHERE nobody = 1)'))) {
            return false;
        }
        self::get(RequestRefund::class)->request($this->clerk, $item, $this->part($item), $this->day, 'x');

        return null;
    }

    private function pairs(): ?bool
    {
        $this->db()->executeStatement('UPDATE company SET books_day = ? WHERE id = ?', [
            $this->day->iso(),
            $this->clerk->companyId,
        ]);
        self::get(EntityManagerInterface::class)->clear();
        $keys = array_column(
            self::get(PairsQuery::class)->of($this->clerk->companyId, Side::Receivables, $this->day),
            'key',
        );
        if ([] === $keys) {
            return false;
        }
        self::get(SettlePairs::class)->settle($this->clerk, Side::Receivables, $keys, null);

        return null;
    }

    private function contra(): ?bool
    {
        $customer =
            self::get(EntityManagerInterface::class)
                ->getRepository(Party::class)
                ->findOneBy(['code' => 'C-1']) ?? self::fail();
        $owes = $this->item("open > 0 AND currency = 'USD' AND party_id = ".$customer->id());
        $owed = $this->one(
            "SELECT id FROM open_item WHERE side = 'payables' AND open > 0 AND reserved_by_id IS NULL AND kind = 'invoice'",
        );
        if (null === $owes || null === $owed) {
            return false;
        }
        $amount = min($this->open($owes), $this->open($owed));
        self::get(Contra::class)->post($this->clerk, $customer, [$owes => $amount, $owed => $amount], $this->day, '');

        return null;
    }

    private function undo(): ?bool
    {
        if (null === ($id = $this->one('SELECT id FROM settlement WHERE undone_on IS NULL'))) {
            return false;
        }
        self::get(UndoSettlement::class)->undo($this->clerk, $id, $this->day);

        return null;
    }

    private function bounce(): ?bool
    {
        $id = $this->one("SELECT id FROM document WHERE kind = 'receipt' AND state = 'posted'");
        if (null === $id) {
            return false;
        }
        self::get(Bounce::class)->record($this->clerk, $id, $this->day, 'no funds', mt_rand(0, 1) * 1250, false);

        return null;
    }

    private function takeBack(): ?bool
    {
        $id = $this->one("SELECT id FROM document WHERE state = 'posted' AND side = 'receivables'");
        if (null === $id) {
            return false;
        }
        self::get(ReverseDocument::class)->reverse($this->clerk, $id, 'a mistake');

        return null;
    }

    private function nextDay(): void
    {
        $this->day = $this->day->plusDays(mt_rand(0, 2));
    }
}
