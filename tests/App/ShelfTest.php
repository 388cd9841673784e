<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Brick\Math\BigDecimal;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Import\ImportFile;
use Nelbix\App\Ledger\ExchangeRate;
use Nelbix\App\Money\MoneyInput;
use Nelbix\App\Money\PostMoney;
use Nelbix\App\Parties\SaveParty;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Problem;
use Nelbix\Core\Settlement\AdjustmentKind;
use PHPUnit\Framework\Attributes\DataProvider;

/** Where the rest of a receipt goes, whose items it is placed on, and in which currency it moved. Source: rules.md, Settlements. */
final class ShelfTest extends ScreenCase
{
    /** @return array<string, int> what accounts moved by, in ledger sign, by number, of those that moved */
    private function moved(string ...$numbers): array
    {
        $found = [];
        foreach ($numbers as $number) {
            $found[$number] = $this->balance($number);
        }

        return $found;
    }

    /** @param array<string, mixed> $more */
    private function receipt(string $amount, array $more): string
    {
        return $this->postedOnBoard('receipt', ['amount' => $amount, 'kind' => 'unapplied', ...$more], 'receivables');
    }

    /** @return iterable<string, array{string, array<string, string>, string, int}> what came of 100.00, shelf, account, what it takes */
    public static function shelves(): iterable
    {
        // 2 % within 10 days of 1 June lapsed on 11 June; 15 June is late
        yield 'discount though late' => ['98.00', ['rest' => 'late', 'rest_reason' => 'always paid well'], '4900', 200];
        yield 'bad debt' => ['60.00', ['rest' => 'bad', 'rest_reason' => 'gone away'], '6900', 4000];
        yield 'bank charge, which says itself' => ['88.00', ['rest' => 'charge'], '6800', 1200];
        yield 'another account' => [
            '90.00',
            ['rest' => 'account', 'rest_reason' => 'for the flag', 'rest_account' => '6400'],
            '6400',
            1000,
        ];
        yield 'a small difference' => ['99.50', ['rest' => 'small'], '6850', 50];
    }

    /** @param array<string, string> $shelf */
    #[DataProvider('shelves')]
    public function testWhatIsLetGoGoesToItsAccount(string $amount, array $shelf, string $account, int $takes): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '100.00', ['document_date' => '2026-06-01']));
        $said = $this->receipt($amount, [
            'placed' => [$item => $amount],
            ...array_map(static fn (string $v): array => [$item => $v], $shelf),
        ]);
        self::assertStringContainsString('Receivables fell by 100.00 USD', $said);
        self::assertSame(['1200' => 0, $account => $takes], $this->moved('1200', $account));
        self::assertSame(0, $this->open($item));
        // wholly undone with the money
        self::get(ReverseDocument::class)->event(
            $this->clerk,
            (int) $this->db()->fetchOne("SELECT id FROM document WHERE kind = 'receipt'"),
            Day::of(self::DAY),
            HowTakenBack::Bounced,
            'no funds',
        );
        self::assertSame(['1200' => 10000, $account => 0], $this->moved('1200', $account));
    }

    public function testEachAsksForWhatItNeeds(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '100.00', ['document_date' => '2026-06-01']));
        $try = fn (string $amount, array $shelf): string => $this->receipt($amount, [
            'placed' => [$item => $amount],
            ...array_map(static fn (string $v): array => [$item => $v], $shelf),
        ]);
        self::assertStringContainsString('Say why', $try('98.00', ['rest' => 'late']));
        self::assertStringContainsString(
            'that lapsed is 2.00',
            $try('97.99', ['rest' => 'late', 'rest_reason' => 'x']),
            'not a cent more than what lapsed',
        );
        self::assertStringContainsString('Say why', $try('90.00', ['rest' => 'bad', 'rest_reason' => ' ']));
        self::assertStringContainsString(
            'There is no account',
            $try('90.00', ['rest' => 'account', 'rest_reason' => 'x', 'rest_account' => '9']),
        );
        foreach (
            ['1200' => 'is a control account', '1000' => 'is a bank account', '6900' => 'takes bad debts'] as $no => $why
        ) {
            self::assertStringContainsString(
                $why,
                $try('90.00', ['rest' => 'account', 'rest_reason' => 'x', 'rest_account' => (string) $no]),
            );
        }
        self::assertStringContainsString('Say what the claim', $try('90.00', ['rest' => 'claim']));
        self::assertStringContainsString(
            'at most 0.50',
            $try('99.49', ['rest' => 'small']),
            'half a percent is the smaller bound here',
        );
        self::assertSame(0, (int) $this->db()->fetchOne("SELECT COUNT(*) FROM document WHERE kind = 'receipt'"));
    }

    public function testAClaimAndWhatIsAboveTheLimitWait(): void
    {
        $one = $this->itemOf($this->invoice(Side::Receivables, '100.00'));
        $two = $this->itemOf($this->invoice(Side::Receivables, '200.00'));
        $said = $this->receipt('215.00', [
            'placed' => [$one => '75.00', $two => '140.00'],
            'rest' => [$one => 'claim', $two => 'bad'],
            'rest_kind' => [$one => 'credit_due'],
            'rest_reason' => [$one => 'three screws short', $two => 'they said they cannot'],
        ]);
        self::assertStringContainsString('25.00 USD is a claim.', $said);
        self::assertStringContainsString('60.00 USD waits as a claim until somebody else approves: bad debt.', $said);
        self::assertStringContainsString('Receivables fell by 215.00 USD', $said);
        self::assertSame(['1200' => 8500, '6900' => 0], $this->moved('1200', '6900'));
        self::assertSame([0, 0], [$this->open($one), $this->open($two)]);
        self::assertSame(
            [['credit_due', 'open', 2500], ['write_off', 'awaiting', 6000]],
            array_map(
                static fn (array $r): array => [$r[0], $r[1], (int) $r[2]],
                $this->db()->fetchAllNumeric(
                    'SELECT c.kind, c.state, i.open FROM claim c JOIN open_item i ON i.id = c.item_id ORDER BY c.id',
                ),
            ),
        );
        $this->as('approver');
        $this->post(
            '/TEST/receivables/claims',
            '/TEST/receivables/claim/'.$this->db()->fetchOne('SELECT MAX(id) FROM claim').'/decide',
            [
                '_seen' => '1',
                '_action' => 'approve',
            ],
        );
        self::assertSame(['1200' => 2500, '6900' => 6000], $this->moved('1200', '6900'));
    }

    public function testTheRestIsAPrepaymentGivenBackOrElsewhere(): void
    {
        $invoice = fn (): int => $this->itemOf($this->invoice(Side::Receivables, '100.00', ['terms' => 'N30']));
        $said = $this->receipt('130.00', ['placed' => [$invoice() => '100.00'], 'kind' => 'prepayment']);
        self::assertStringContainsString(
            'Receivables fell by 100.00 USD; customer prepayments rose by 30.00 USD',
            $said,
        );
        self::assertStringContainsString('30.00 USD is a prepayment', $said);
        self::assertSame(['1200' => 0, '2150' => -3000], $this->moved('1200', '2150'));
        $said = $this->receipt('140.00', [
            'placed' => [$invoice() => '100.00'],
            'kind' => 'refund',
            'kind_reason' => 'twice',
        ]);
        self::assertStringContainsString('refunds payable rose by 40.00 USD', $said);
        self::assertSame(['1200' => 0, '2160' => -4000], $this->moved('1200', '2160'));
        $said = $this->receipt('145.00', [
            'placed' => [$invoice() => '100.00'],
            'kind' => 'account',
            'kind_account' => '6400',
            'kind_reason' => 'for the harbour flag',
        ]);
        self::assertStringContainsString('Receivables fell by 100.00 USD', $said);
        self::assertSame(['1200' => 0, '6400' => -4500], $this->moved('1200', '6400'));
        self::assertStringContainsString(
            'Say why what is left over',
            $this->receipt('141.00', ['kind' => 'account', 'kind_account' => '6400']),
        );
        self::assertStringContainsString(
            'more than the 50.00',
            $this->receipt('50.01', ['kind' => 'account', 'kind_account' => '6400', 'kind_reason' => 'x']),
        );
    }

    public function testOneReceiptForSeveralCustomersBouncesForAll(): void
    {
        self::get(SaveParty::class)->save($this->clerk, Side::Receivables, [
            'code' => 'C-2',
            'name' => 'Osprey',
            'terms' => 'N30',
            'default_account' => '4000',
        ]);
        self::get(SaveParty::class)->save($this->clerk, Side::Receivables, [
            'code' => 'C-3',
            'name' => 'Plover',
            'terms' => 'N30',
            'default_account' => '4000',
        ]);
        $own = $this->itemOf($this->invoice(Side::Receivables, '100.00', ['document_date' => '2026-06-10']));
        $other = $this->itemOf($this->invoice(Side::Receivables, '250.00', ['party' => 'C-2', 'terms' => 'N30']));
        $credit = $this->itemOf(
            $this->invoice(Side::Receivables, '30.00', ['party' => 'C-2', 'kind' => 'credit_note', 'terms' => 'N30']),
        );
        $third = $this->itemOf($this->invoice(Side::Receivables, '40.00', ['party' => 'C-3', 'terms' => 'N30']));
        $said = $this->receipt('400.00', [
            'also' => 'C-2,C-3',
            'placed' => [$own => '100.00', $other => '250.00', $credit => '30.00', $third => '15.00'],
            'discount' => [$own => '2.00'],
        ]);
        // 98.00 + 220.00 + 15.00 are placed, 67.00 is left with the payer; the credit moves nothing on the control
        self::assertStringContainsString('67.00 USD stays unapplied', $said);
        $items = fn (): array => array_map(
            static fn (array $r): array => [(string) $r[0], (int) $r[1], (int) $r[2]],
            $this->db()->fetchAllNumeric(
                <<<'SQL'
                SELECT p.code, i.original, i.open FROM open_item i JOIN party p ON p.id = i.party_id
                JOIN document d ON d.id = i.document_id WHERE d.kind = 'receipt' AND d.reverses_id IS NULL ORDER BY i.part
                SQL
                ,
            ),
        );
        self::assertSame([['C-1', -16500, -6700], ['C-2', -22000, 0], ['C-3', -1500, 0]], $items());
        self::assertSame([0, 0, 0, 2500], array_map($this->open(...), [$own, $other, $credit, $third]));
        self::assertSame(['1000' => 40000, '4900' => 200], $this->moved('1000', '4900'));
        $receipt = (int) $this->db()->fetchOne("SELECT id FROM document WHERE kind = 'receipt'");
        self::get(ReverseDocument::class)->event(
            $this->clerk,
            $receipt,
            Day::of(self::DAY),
            HowTakenBack::Bounced,
            'no funds',
        );
        self::assertSame([10000, 25000, -3000, 4000], array_map($this->open(...), [$own, $other, $credit, $third]));
        self::assertSame(['1000' => 0, '4900' => 0], $this->moved('1000', '4900'));
        // credits of one customer pay nobody else's debts
        self::assertStringContainsString(
            'more than what they are placed on of the same customer',
            $this->receipt('70.00', [
                'also' => 'C-2',
                'placed' => [$own => '100.00', $credit => '30.00'],
                'look_alike_reason' => 'x',
            ]),
        );
    }

    public function testMoneyHasTwoAmounts(): void
    {
        $em = self::get(EntityManagerInterface::class);
        foreach ([['EUR', '1.10'], ['GBP', '1.25']] as [$currency, $rate]) {
            $em->persist(new ExchangeRate($this->clerk->companyId, Day::of('2026-06-01'), $currency, 'USD', $rate));
        }
        $em->flush();
        // rules.md: 1,000.00 EUR (base 1,100.00) received as 1,075.00 USD: bank 1,075.00, loss 25.00, control 1,100.00
        $item = fn (): int => $this->itemOf(
            $this->invoice(Side::Receivables, '1000.00', ['currency' => 'EUR', 'terms' => 'N30']),
        );
        $place = ['currency' => 'EUR', 'look_alike_reason' => 'x'];
        self::assertStringContainsString(
            'Receivables fell by 1,100.00 USD',
            $this->receipt('1000.00', [...$place, 'placed' => [$item() => '1000.00'], 'bank_amount' => '1075.00']),
        );
        self::assertSame(['1000' => 107500, '1200' => 0, '7900' => 2500], $this->moved('1000', '1200', '7900'));
        self::assertSame(
            [107500, 107500],
            array_map(
                'intval',
                (array) $this->db()->fetchNumeric("SELECT bank_amount, bank_base FROM document WHERE kind = 'receipt'"),
            ),
        );
        // blank is the table's rate; an account in a third currency holds its own: 1,100.00 USD are 880.00 GBP at 1.25
        $this->db()->executeStatement("UPDATE bank_account SET currency = 'GBP' WHERE code = '1000'");
        $em->clear();
        self::assertStringContainsString(
            'Posted',
            $this->receipt('1000.00', [...$place, 'placed' => [$item() => '1000.00']]),
        );
        self::assertSame(
            [88000, 110000],
            array_map(
                'intval',
                (array) $this->db()->fetchNumeric(
                    "SELECT bank_amount, bank_base FROM document WHERE kind = 'receipt' ORDER BY id DESC",
                ),
            ),
        );
        // 860.00 GBP are 1,075.00 USD: the same loss
        self::assertStringContainsString(
            'Posted',
            $this->receipt('1000.00', [...$place, 'placed' => [$item() => '1000.00'], 'bank_amount' => '860']),
        );
        self::assertSame(5000, $this->balance('7900'));
        // in its own currency the bank takes what the payer sent, no other amount
        $this->db()->executeStatement("UPDATE bank_account SET currency = 'EUR' WHERE code = '1000'");
        $em->clear();
        self::assertStringContainsString(
            'Posted',
            $this->receipt('1000.00', [...$place, 'placed' => [$item() => '1000.00']]),
        );
        self::assertSame(5000, $this->balance('7900'));
    }

    public function testAReceiptOfNobodyKnownThroughTheBoard(): void
    {
        $said = $this->receipt('77.00', ['party' => '?', 'reference' => 'no name']);
        self::assertStringContainsString('Unidentified receipts rose by 77.00 USD', $said);
        self::assertStringContainsString('stands with the unidentified receipts', $said);
        self::assertSame(['1200' => 0, '2170' => -7700], $this->moved('1200', '2170'));
        self::assertStringContainsString(
            'Only receipts are taken',
            $this->postedOnBoard('settle', ['party' => '?'], 'receivables'),
        );
    }

    public function testAnAmountThatIsNotTypedFollowsWhatIsChosen(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '100.00', ['document_date' => '2026-06-10']));
        self::assertStringContainsString('The amount is missing', $this->receipt('', []));
        self::assertStringContainsString(
            'Posted',
            $this->receipt('', ['placed' => [$item => '100.00'], 'discount' => [$item => '2.00']]),
        );
        self::assertSame(['1000' => 9800, '1200' => 0], $this->moved('1000', '1200'));
    }

    public function testAReceiptOfTheDaysToComeIsAskedAbout(): void
    {
        self::assertStringContainsString('Posted', $this->receipt('5.00', ['date' => '2026-06-22']));
        self::assertStringContainsString('is far from today', $this->receipt('6.00', ['date' => '2026-06-23']));
        self::assertStringContainsString(
            'Posted',
            $this->receipt('6.00', ['date' => '2026-06-23', 'day_meant' => '1']),
        );
    }

    /** The payer's own credit pays its own invoice, so its share of the money is nothing; the rest is another's, and a prepayment. */
    public function testTheMoneyIsAllForOthers(): void
    {
        self::get(SaveParty::class)->save($this->clerk, Side::Receivables, [
            'code' => 'C-2',
            'name' => 'Osprey',
            'terms' => 'N30',
            'default_account' => '4000',
        ]);
        $owed = $this->itemOf($this->invoice(Side::Receivables, '30.00', ['terms' => 'N30']));
        $credit = $this->itemOf(
            $this->invoice(Side::Receivables, '30.00', ['kind' => 'credit_note', 'terms' => 'N30']),
        );
        $other = $this->itemOf($this->invoice(Side::Receivables, '50.00', ['party' => 'C-2', 'terms' => 'N30']));
        $said = $this->receipt('60.00', [
            'also' => 'C-2',
            'placed' => [$owed => '30.00', $credit => '30.00', $other => '50.00'],
            'kind' => 'prepayment',
        ]);
        self::assertStringContainsString('10.00 USD is a prepayment', $said);
        self::assertSame([0, 0, 0], array_map($this->open(...), [$owed, $credit, $other]));
        self::assertSame(
            [['receipt', 'C-2', -5000, 0], ['prepayment', 'C-1', -1000, -1000]],
            array_map(
                static fn (array $r): array => [(string) $r[0], (string) $r[1], (int) $r[2], (int) $r[3]],
                $this->db()->fetchAllNumeric(
                    <<<'SQL'
                    SELECT i.kind, p.code, i.original, i.open FROM open_item i JOIN party p ON p.id = i.party_id
                    JOIN document d ON d.id = i.document_id WHERE d.kind = 'receipt' ORDER BY i.part
                    SQL
                    ,
                ),
            ),
            'each is what it is, in its column of the aging',
        );
    }

    public function testNoTypedRateTakesABadDebtBelowTheLimit(): void
    {
        $em = self::get(EntityManagerInterface::class);
        $em->persist(new ExchangeRate($this->clerk->companyId, Day::of('2026-06-01'), 'EUR', 'USD', '1.10'));
        $em->flush();
        $item = $this->itemOf($this->invoice(Side::Receivables, '100.00', ['currency' => 'EUR', 'terms' => 'N30']));
        $input = new MoneyInput(
            Side::Receivables,
            DocumentKind::Receipt,
            (int) $this->db()->fetchOne('SELECT party_id FROM open_item WHERE id = ?', [$item]),
            (int) $this->db()->fetchOne('SELECT id FROM bank_account WHERE company_id = ?', [$this->clerk->companyId]),
            Day::of(self::DAY),
            'EUR',
            1000,
            placements: [new PlacementRequest($item, 10000)],
            adjustments: [new AdjustmentRequest($item, AdjustmentKind::BadDebt, -9000, null, 'gone away')],
            rate: BigDecimal::of('0.01'),
        );
        self::assertStringContainsString(
            'more than the 50.00',
            self::said(fn () => self::get(PostMoney::class)->post($this->clerk, $input)),
        );
    }

    /** The one who stands for unknown payers is no party that a file names. */
    public function testNoFileNamesWhoIsNotKnown(): void
    {
        $import = fn (string $kind, string $csv): string => implode(
            ' ',
            array_map(
                static fn (Problem $p): string => $p->message,
                self::get(ImportFile::class)->import($this->clerk, $kind, $csv)['errors'],
            ),
        );
        self::assertStringContainsString('is not a code', $import('customers', "code,name\n?,Somebody\n"));
        self::assertStringContainsString(
            'who is not known',
            $import('customer-invoices', "party,number,document_date,account,amount\n?,A1,2026-06-10,4000,5.00\n"),
        );
        self::assertSame(
            'Payer not known yet',
            $this->db()->fetchOne("SELECT name FROM party WHERE code = '?' AND company_id = ?", [
                $this->clerk->companyId,
            ]),
        );
    }
}
