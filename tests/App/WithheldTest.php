<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Import\ImportFile;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;

/** Tax that customers withhold: up to their percent of the net, and only with the number of its certificate. Source: rules.md, Tax. */
final class WithheldTest extends ScreenCase
{
    private int $item;

    protected function setUp(): void
    {
        parent::setUp();
        $this->db()->executeStatement("UPDATE party SET withholding_percent = 10 WHERE code = 'C-1'");
        $this->item = $this->itemOf($this->invoice(Side::Receivables, '1000.00', ['terms' => 'N30']));
    }

    /** @param array<string, mixed> $more */
    private function receive(string $amount, string $key, array $more = []): string
    {
        return $this->postedOnBoard(
            'receipt',
            [
                'amount' => $amount,
                'placed' => [$this->item => $amount],
                'rest' => [$this->item => 'withheld'],
                'look_alike_reason' => 'another',
                '_key' => $key,
                ...$more,
            ],
            'receivables',
        );
    }

    public function testItIsOfferedAndStandsOnItsAccountWithTheCertificate(): void
    {
        $live = $this->post('/TEST/receivables/receipt?party=C-1', '/TEST/receivables/receipt/live', [
            'party' => 'C-1',
            'date' => '.',
            'bank' => '1000',
            'amount' => '900',
            'placed' => [$this->item => '900'],
        ]);
        self::assertStringContainsString('tax withheld', $live->filter('.shelf')->text());
        self::assertStringContainsString('Type the number of the certificate', $this->receive('900', 'a'));
        $this->receive('900', 'b', ['rest_reason' => [$this->item => 'WHT-2026-17']]);
        self::assertSame(
            [0, 10000, 90000, 0],
            [$this->open($this->item), ...array_map($this->balance(...), ['1350', '1000', '1200'])],
        );
        self::assertSame('WHT-2026-17', $this->db()->fetchOne('SELECT reason FROM settlement_adjustment'));
    }

    public function testItsPercentIsSetOnTheCustomersPage(): void
    {
        $id = (string) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'C-1'");
        $at = '/TEST/receivables/party/'.$id.'/edit';
        $form = $this->page($at)->filter('#withholding_percent');
        self::assertSame('10', $form->attr('value'));
        $values = $this->browser->getCrawler()->filter('form[data-main]')->form()->getPhpValues();
        $wrong = $this->post($at, '/TEST/receivables/party/save', [
            'withholding_percent' => '101',
            ...array_diff_key($values, ['withholding_percent' => 0]),
        ]);
        self::assertCount(1, $wrong->filter('#withholding_percent[aria-invalid]'));
        $page = $this->post($at, '/TEST/receivables/party/save', ['withholding_percent' => '12.5'] + $values);
        self::assertStringContainsString('12.5 % of what it pays', $page->text());
        $changed = "SELECT detail FROM history WHERE subject = 'party' AND subject_id = ? ORDER BY id DESC LIMIT 1";
        self::assertStringContainsString('12.5', (string) $this->db()->fetchOne($changed, [$id]));
    }

    public function testNoMoreThanItsPercentAndNotWithoutOne(): void
    {
        $why = ['rest_reason' => [$this->item => 'WHT-1']];
        self::assertStringContainsString(
            '100.00 may be withheld, it is short of 100.01',
            $this->receive('899.99', 'a', $why),
        );
        $this->db()->executeStatement("UPDATE party SET withholding_percent = NULL WHERE code = 'C-1'");
        self::assertStringContainsString('0.00 may be withheld', $this->receive('900', 'b', $why));
        self::assertSame(100000, $this->open($this->item));
    }

    public function testEachDoorAsksForTheCertificate(): void
    {
        $adjusted = fn (string $reason): string => self::said(
            fn () => $this->money(
                Side::Receivables,
                90000,
                [new PlacementRequest($this->item, 100000)],
                [new AdjustmentRequest($this->item, AdjustmentKind::Withholding, -10000, reason: $reason)],
            ),
        );
        self::assertStringContainsString('is proved by a certificate', $adjusted(' '));
        $number = $this->db()->fetchOne('SELECT number FROM open_item WHERE id = ?', [$this->item]);
        $csv = static fn (
            string $certificate,
        ): string => "party,date,bank,currency,amount,apply_to,applied,withholding,certificate\n".
            "C-1,2026-06-15,1000,USD,900.00,$number,1000.00,100.00,$certificate\n";
        $import = fn (string $certificate): string => implode(
            ' ',
            array_column(
                self::get(ImportFile::class)->import($this->clerk, 'receipts', $csv($certificate))['errors'],
                'message',
            ),
        );
        self::assertStringContainsString('is proved by a certificate', $import(''));
        self::assertSame('', $import('WHT-9'));
        self::assertSame([0, 10000], [$this->open($this->item), $this->balance('1350')]);
    }
}
