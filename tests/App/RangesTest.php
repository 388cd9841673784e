<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\SettleItems;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Import\ImportFile;
use Nelbix\App\Ledger\AddYear;
use Nelbix\App\Setup\SaveTaxCode;
use Nelbix\App\Setup\SaveTerm;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Problem;
use PHPUnit\Framework\Attributes\DataProvider;

/** What is out of range, overlaps or stands twice is refused by its field; codes are alike in whatever case they are typed. */
final class RangesTest extends ScreenCase
{
    /** @return list<string> errors as "line column: message" */
    private function import(string $kind, string $csv): array
    {
        $errors = self::get(ImportFile::class)->import($this->clerk, $kind, $csv)['errors'];

        return array_map(static fn (Problem $p): string => $p->line.' '.$p->field.': '.$p->message, $errors);
    }

    /** @return iterable<string, array{array<string, mixed>, string}> what is wrong, and the field that is named */
    public static function invoices(): iterable
    {
        yield 'a currency that is none' => [['currency' => 'ZZZ'], 'currency'];
        yield 'a rate out of range' => [['currency' => 'EUR', 'rate' => '500000'], 'rate'];
        yield 'a rate of next to nothing' => [['currency' => 'EUR', 'rate' => '0.0000000001'], 'rate'];
        yield 'due before its document' => [['due_date' => '2026-06-01'], 'due_date'];
        yield 'due before its discount ends' => [['due_date' => '2026-06-15'], 'due_date'];
        yield 'an amount too large' => [
            ['lines' => [['account' => '', 'amount' => '9999999999999.00']]],
            'lines.0.amount',
        ];
    }

    /** @param array<string, mixed> $more */
    #[DataProvider('invoices')]
    public function testAnInvoiceOutOfRangeNamesTheField(array $more, string $field): void
    {
        self::assertContains($field, self::refusedFields(fn () => $this->invoice(Side::Payables, '100.00', $more)));
    }

    public function testTermsThatMakeNoSense(): void
    {
        $save = fn (array $more): array => self::refusedFields(
            fn () => self::get(SaveTerm::class)->save($this->clerk, [
                'code' => 'T'.random_int(1, 9999),
                'text' => 'x',
                'use' => 'both',
                'net' => '30',
                ...$more,
            ]),
        );
        self::assertSame(['windows'], $save(['windows' => '1-15:+1m10 10-31:+2m10']));
        self::assertSame(['discounts'], $save(['discounts' => '2@45']));
        self::assertSame(['discounts'], $save(['discounts' => '2@+1m15', 'net' => '+1m10']));
    }

    public function testATaxCodeIsNotInclusiveAndReverseCharge(): void
    {
        self::assertSame(
            ['inclusive'],
            self::refusedFields(
                fn () => self::get(SaveTaxCode::class)->save($this->clerk, [
                    'code' => 'RC',
                    'text' => 'both',
                    'rate' => '20',
                    'use' => 'purchase',
                    'account' => '1300',
                    'reverse_account' => '2200',
                    'inclusive' => 'yes',
                ]),
            ),
        );
    }

    public function testASecondRateForADayIsRefused(): void
    {
        $file = "date,from,to,rate\n2026-06-01,EUR,USD,%s\n";
        self::assertSame([], $this->import('rates', \sprintf($file, '1.08')));
        self::assertSame([], $this->import('rates', \sprintf($file, '1.080')), 'the same once more is no second one');
        self::assertStringStartsWith(
            '2 rate: There is a rate of EUR to USD',
            $this->import('rates', \sprintf($file, '1.09'))[0],
        );
    }

    public function testCodesAreAlikeInWhateverCase(): void
    {
        $id = $this->invoice(Side::Payables, '', [
            'party' => 'v-1',
            'terms' => 'n30',
            'lines' => [['account' => '5000', 'amount' => '100.00', 'tax_code' => 'p8', 'cost_center' => '']],
        ]);
        self::assertSame(10800, $this->open($this->itemOf($id)));
    }

    public function testSettlingWithoutValueAsksForNoRate(): void
    {
        $invoice = $this->itemOf($this->invoice(Side::Receivables, '100.00', ['currency' => 'SEK', 'rate' => '0.1']));
        $credit = $this->itemOf(
            $this->invoice(Side::Receivables, '100.00', [
                'currency' => 'SEK',
                'rate' => '0.1',
                'kind' => 'credit_note',
            ]),
        );
        self::get(SettleItems::class)->settle(
            $this->clerk,
            new SettlementRequest(
                Side::Receivables,
                [new PlacementRequest($invoice, 10000), new PlacementRequest($credit, -10000)],
                [],
                Day::of(self::DAY),
            ),
        );
        self::assertSame(0, $this->open($invoice));
    }

    public function testTheNumberOfAReversedCustomerInvoiceIsFree(): void
    {
        $first = $this->invoice(Side::Receivables, '10.00', ['number' => 'OWN-1']);
        self::assertSame(
            ['number'],
            self::refusedFields(fn () => $this->invoice(Side::Receivables, '20.00', ['number' => 'OWN-1'])),
        );
        self::get(ReverseDocument::class)->reverse($this->clerk, $first, 'a mistake');
        $this->invoice(Side::Receivables, '20.00', ['number' => 'OWN-1']);
        self::assertSame(2, (int) $this->db()->fetchOne("SELECT COUNT(*) FROM document WHERE number = 'OWN-1'"));
    }

    public function testALookAlikeInAFileAsksForItsReason(): void
    {
        $head = 'party,number,document_date,account,amount';
        self::assertSame([], $this->import('vendor-invoices', $head."\nV-1,A-1,2026-06-01,5000,10.00\n"));
        $alike = "\nV-1,A1,2026-06-01,5000,55.00%s\n";
        self::assertStringStartsWith(
            '2 look_alike_reason: It looks like VI-26-00001',
            $this->import('vendor-invoices', $head.\sprintf($alike, ''))[0],
        );
        self::assertSame(
            [],
            $this->import('vendor-invoices', $head.',look_alike_reason'.\sprintf($alike, ',another delivery')),
        );
    }

    public function testMessagesNameTheColumnsOfTheFile(): void
    {
        $file = "party,date,bank,currency,amount,apply_to,applied\nC-1,2026-06-15,1000,USD,5.00,%s,9.00\n";
        $this->invoice(Side::Receivables, '9.00', ['number' => 'OWN-9']);
        self::assertStringStartsWith(
            '2 amount: 4.00 USD more is placed',
            $this->import('receipts', \sprintf($file, 'OWN-9'))[0],
        );
        $this->db()->executeStatement('UPDATE period SET receivables_locked = 1');
        self::assertStringStartsWith(
            '2 document_date: ',
            $this->import(
                'customer-invoices',
                "party,number,document_date,account,amount\nC-1,,2026-06-15,4000,9.00\n",
            )[0],
        );
    }

    public function testTheNextYearIsAddedOnce(): void
    {
        $year = self::get(AddYear::class)->next($this->clerk->companyId);
        self::assertStringContainsString(
            'The periods of '.$year.' are there',
            $this->post('/TEST/close', '/TEST/close/year', ['year' => (string) $year])
                ->filter('.said-done')
                ->text(),
        );
        self::assertSame(['year'], self::refusedFields(fn () => self::get(AddYear::class)->add($this->clerk, $year)));
        $this->invoice(Side::Receivables, '5.00', ['document_date' => $year.'-07-01']);
        self::assertEquals(
            [$year.'-01-01', $year.'-12-31', 12],
            array_values(
                $this->db()->fetchAssociative(
                    'SELECT MIN(first_day), MAX(last_day), COUNT(*) FROM period WHERE year = ?',
                    [$year],
                ) ?:
                [],
            ),
        );
    }

    /** Instalments whose share is nothing make no item, and such a document can be reversed. */
    public function testInstalmentsOfZeroMakeNoItem(): void
    {
        self::get(SaveTerm::class)->save($this->clerk, [
            'code' => 'I3',
            'text' => 'in three parts',
            'use' => 'both',
            'instalments' => '30@30 30@60 40@90',
        ]);
        $id = $this->invoice(Side::Receivables, '0.01', ['terms' => 'I3']);
        self::assertSame(1, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM open_item WHERE document_id = ?', [$id]));
        self::get(ReverseDocument::class)->reverse($this->clerk, $id, 'a mistake');
        self::assertSame(0, $this->open($this->itemOf($id)));
    }
}
