<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Goods\DeliveryReader;
use Nelbix\App\Goods\RecordDelivery;
use Nelbix\App\Goods\ReverseDelivery;
use Nelbix\App\Ledger\ExchangeRate;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Platform\FormKey;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;

/** Goods received: expense or asset at order price against received-not-invoiced. Source: rules.md, Journal entries. */
final class DeliveryTest extends AppCase
{
    /** @param array<string, mixed> $more */
    private function record(array $more = [], ?FormKey $key = null): int
    {
        $raw = [
            'party' => 'V-1',
            'delivered_on' => self::DAY,
            'note_number' => 'DN-1',
            'lines' => [
                ['account' => '1400', 'quantity' => '42.5', 'price' => '18.40', 'text' => 'oak'],
                ['account' => '5000', 'quantity' => '3', 'price' => '0.333333'],
            ],
            ...$more,
        ];

        return self::get(RecordDelivery::class)->record(
            $this->clerk,
            self::get(DeliveryReader::class)->read($this->clerk, $raw),
            $key,
        );
    }

    /** @return array{int, int} ledger and items of received-not-invoiced, in its normal sign */
    private function tie(string $day): array
    {
        foreach (self::get(TieOutQuery::class)->of($this->clerk->companyId, Day::of($day)) as $row) {
            if (AccountRole::ReceivedNotInvoiced === $row['role']) {
                self::assertSame([], $row['tie']->explainedBy);

                return [$row['tie']->ledger, $row['tie']->items];
            }
        }
        self::fail('no such control account');
    }

    public function testADeliveryIsPostedAndTiesUntilItIsReversed(): void
    {
        $id = $this->record();
        // 42.5 × 18.40 = 782.00; 3 × 0.333333 = 0.999999, rounded 1.00
        self::assertSame(
            [78200, 100, -78300],
            [$this->balance('1400'), $this->balance('5000'), $this->balance('2110')],
        );
        self::assertSame('GR-26-00001', $this->db()->fetchOne('SELECT number FROM delivery WHERE id = ?', [$id]));
        self::assertSame([78300, 78300], $this->tie(self::DAY));
        self::assertSame([0, 0], $this->tie('2026-06-09'));

        self::get(ReverseDelivery::class)->reverse($this->clerk, $id, Day::of('2026-06-18'), 'its invoice came');
        self::assertSame([0, 0, 0], [$this->balance('1400'), $this->balance('5000'), $this->balance('2110')]);
        self::assertSame([[78300, 78300], [0, 0]], [$this->tie('2026-06-17'), $this->tie('2026-06-18')]);
        self::assertSame(
            [''],
            self::refusedFields(
                fn () => self::get(ReverseDelivery::class)->reverse($this->clerk, $id, Day::of('2026-06-19'), 'again'),
            ),
        );
    }

    public function testABrokenDeliveryIsNamedByTheTieOut(): void
    {
        $id = $this->record();
        $this->db()->executeStatement('UPDATE delivery SET amount_base = amount_base + 500 WHERE id = ?', [$id]);
        foreach (self::get(TieOutQuery::class)->of($this->clerk->companyId, Day::of(self::DAY)) as $row) {
            if (AccountRole::ReceivedNotInvoiced === $row['role']) {
                self::assertSame(
                    [-500, -500],
                    [
                        $row['tie']->difference(),
                        array_sum(array_map(static fn ($e): int => $e->amount, $row['tie']->explainedBy)),
                    ],
                );
            }
        }
        $this->db()->executeStatement('UPDATE delivery SET amount_base = amount_base - 500 WHERE id = ?', [$id]);
    }

    public function testForeignDeliveriesShareTheirBase(): void
    {
        self::get(EntityManagerInterface::class)->persist(
            new ExchangeRate($this->clerk->companyId, Day::of('2026-06-01'), 'EUR', 'USD', '1.1111'),
        );
        self::get(SaveParty::class)->save($this->clerk, Side::Payables, [
            'code' => 'V-E',
            'name' => 'Strandby Lak',
            'currency' => 'EUR',
            'default_account' => '5000',
        ]);
        $line = ['quantity' => '1', 'price' => '33.35'];
        $this->record(['party' => 'V-E', 'lines' => [$line, $line, $line]]);
        // rules.md: three lines of 33.35 EUR at 1.1111: 111.17 = 37.06 + 37.06 + 37.05; 100.05 × 1.1111 = 111.165555
        self::assertSame(
            ['3706', '3706', '3705'],
            array_map(
                'strval',
                $this->db()->fetchFirstColumn('SELECT amount_base FROM delivery_line ORDER BY position'),
            ),
        );
        self::assertSame(-11117, $this->balance('2110'));
        self::assertSame([11117, 11117], $this->tie(self::DAY));
    }

    public function testWhatIsWrongIsNamedAndNothingIsKept(): void
    {
        $fields = self::refusedFields(
            fn () => $this->record([
                'party' => 'nobody',
                'delivered_on' => '',
                'note_number' => str_repeat('x', 61),
                'lines' => [
                    ['account' => '2110', 'quantity' => '-1', 'price' => 'x'],
                    ['account' => '9', 'quantity' => '1', 'price' => '', 'cost_center' => 'Z'],
                ],
            ]),
        );
        self::assertSame(
            [
                'party',
                'delivered_on',
                'note_number',
                'lines.0.account',
                'lines.0.quantity',
                'lines.0.price',
                'lines.1.account',
                'lines.1.price',
                'lines.1.cost_center',
            ],
            $fields,
        );
        self::assertSame(['lines.0.quantity'], self::refusedFields(fn () => $this->record(['lines' => []])));
        self::assertSame(
            ['delivered_on'],
            self::refusedFields(fn () => $this->record(['delivered_on' => '2031-01-01'])),
            'no period',
        );
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM delivery'));
        $form = new FormKey('k', 'as typed');
        $id = $this->record([], $form);
        self::assertSame($id, $this->record([], $form), 'the same form twice is one delivery');
        self::assertSame(
            ['reason'],
            self::refusedFields(
                fn () => self::get(ReverseDelivery::class)->reverse($this->clerk, $id, Day::of('2026-06-18'), ' '),
            ),
        );
        self::assertSame(
            ['date'],
            self::refusedFields(
                fn () => self::get(ReverseDelivery::class)->reverse($this->clerk, $id, Day::of('2026-06-01'), 'early'),
            ),
        );
    }

    /** Nothing but its own party ledger or a delivery reaches received-not-invoiced. */
    public function testTheAccountIsClosedToOthers(): void
    {
        $this->expectException(Refused::class);
        $this->invoice(Side::Payables, '10.00', ['lines' => [['account' => '2110', 'amount' => '10.00']]]);
    }
}
