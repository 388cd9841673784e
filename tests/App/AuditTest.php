<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Brick\Math\BigDecimal;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Close\Audit\AuditCsv;
use Nelbix\App\Close\Audit\AuditXml;
use Nelbix\App\Close\TrialBalanceQuery;
use Nelbix\App\Ledger\SaveRate;
use Nelbix\App\Money\ClaimKind;
use Nelbix\App\Money\ClaimRequest;
use Nelbix\App\Money\MakeClaim;
use Nelbix\App\Platform\Company;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\Process\Process;

/**
 * An audit file is worked out again by a script that shares no code with Nelbix (audit.cjs), and agrees.
 *
 * @phpstan-type WorkedOut array{balances: array<string, string>, open: array<string, list<string>>,
 *     aging: array<string, array<string, list<string>>>}
 */
final class AuditTest extends ScreenCase
{
    private string $folder;

    protected function setUp(): void
    {
        parent::setUp();
        $this->folder = sys_get_temp_dir().'/nelbix-audit-test-'.getmypid();
        mkdir($this->folder, 0700, true);
        self::get(SaveRate::class)->save(
            $this->clerk,
            Day::of('2026-01-01'),
            'EUR',
            'USD',
            BigDecimal::of('1.12'),
            'typed',
        );
        $this->invoice(Side::Receivables, '500.00', ['document_date' => '2025-12-10']);
        $paid = $this->invoice(Side::Receivables, '80.00', ['document_date' => '2025-11-10']);
        $this->money(Side::Receivables, 8000, [new PlacementRequest($this->itemOf($paid), 8000)], [], '2025-12-01');
        // paid in part before the span by money that was all placed before it
        $half = $this->invoice(Side::Receivables, '100.00', ['document_date' => '2025-10-01']);
        $this->money(Side::Receivables, 4000, [new PlacementRequest($this->itemOf($half), 4000)], [], '2025-11-01');
        $sold = $this->invoice(Side::Receivables, '1000.00', [
            'document_date' => '2026-04-10',
            'currency' => 'EUR',
            'rate' => '1.1',
        ]);
        // a claim is two items under one number: what it takes from the invoice, and itself; this one is paid in part
        self::get(MakeClaim::class)->make(
            $this->clerk,
            new ClaimRequest($this->itemOf($half), 2500, ClaimKind::Other, 'too dear'),
            Day::of('2026-05-04'),
        );
        $claim = (int) $this->db()->fetchOne("SELECT id FROM open_item WHERE kind = 'claim' AND open <> 0");
        $this->money(Side::Receivables, 1000, [new PlacementRequest($claim, 1000)], [], '2026-05-05');
        $this->invoice(Side::Receivables, '30.00', ['document_date' => '2026-05-10', 'kind' => 'credit_note']);
        $this->invoice(Side::Payables, '140.00', [
            'document_date' => '2026-03-01',
            'description' => "a & b < \"c\" \u{1F6F6}",
        ]);
        $this->money(Side::Payables, 3000, kind: DocumentKind::Prepayment, date: '2026-05-20');
        $part = $this->money(
            Side::Receivables,
            40000,
            [new PlacementRequest($this->itemOf($sold), 40000)],
            [],
            '2026-05-02',
            currency: 'EUR',
        );
        $this->money(Side::Receivables, 777, date: '2026-05-03');
        $undone = (int) $this->db()->fetchOne('SELECT id FROM settlement WHERE document_id = ?', [$part]);
        self::get(UndoSettlement::class)->undo($this->clerk, $undone, Day::of('2026-06-10'));
    }

    protected function tearDown(): void
    {
        array_map(unlink(...), glob($this->folder.'/*') ?: []);
        rmdir($this->folder);
        parent::tearDown();
    }

    private function company(): Company
    {
        return self::get(\Doctrine\ORM\EntityManagerInterface::class)->find(Company::class, $this->clerk->companyId) ??
            self::fail();
    }

    /** @return WorkedOut */
    private function workedOut(string $from, string $to, string $day): array
    {
        $file = $this->folder.'/audit.xml';
        $out = fopen($file, 'w') ?: self::fail();
        self::get(AuditXml::class)->write($this->company(), Day::of($from), Day::of($to), static function (
            string $part,
        ) use ($out): void {
            fwrite($out, $part);
        });
        fclose($out);
        $xml = new \DOMDocument();
        self::assertTrue($xml->load($file), 'it is well-formed');
        $script = new Process(['node', __DIR__.'/audit.cjs', $file, $day]);

        /** @var WorkedOut */
        return json_decode($script->mustRun()->getOutput(), true, 16, \JSON_THROW_ON_ERROR);
    }

    public function testTheFileAloneGivesTrialBalanceOpenItemsAndAgingOfAnyDayOfItsSpan(): void
    {
        foreach (['2026-01-01', '2025-01-01'] as $from) {
            foreach (['2026-05-31', '2026-06-09', '2026-06-10', self::DAY] as $iso) {
                $file = $this->workedOut($from, self::DAY, $iso);
                foreach (Side::cases() as $side) {
                    $aged = [];
                    foreach ($this->aged($side, Day::of($iso)) as $line) {
                        $row = $line->row;
                        $aged[$line->code] = array_map('strval', [
                            $row->notDue,
                            ...$row->buckets,
                            $row->credits,
                            $row->prepayments,
                        ]);
                    }
                    self::assertSame($aged, $file['aging'][$side->value], $from.' '.$iso.' '.$side->value);
                }
            }
            $balances = [];
            foreach (self::get(TrialBalanceQuery::class)->of($this->clerk->companyId, Day::of(self::DAY)) as $r) {
                if (0 !== $r['balance']) {
                    $balances[$r['account']] = (string) $r['balance'];
                }
            }
            self::assertEquals($balances, $this->workedOut($from, self::DAY, self::DAY)['balances']);
        }
    }

    public function testTheFileAloneGivesEveryOpenItem(): void
    {
        $items = [];
        foreach (
            $this->db()->iterateAssociative('SELECT id, side, open, open_base FROM open_item WHERE open <> 0') as $row
        ) {
            $items[] = $row['side'].' '.$row['open'].' '.$row['open_base'];
        }
        $file = [];
        foreach ($this->workedOut('2025-01-01', self::DAY, self::DAY)['open'] as $name => [$open, $base]) {
            $file[] = explode(' ', (string) $name)[0].' '.$open.' '.$base;
        }
        sort($items);
        sort($file);
        self::assertSame($items, $file);
    }

    public function testWhatWasSettledBeforeTheSpanIsLeftOut(): void
    {
        $whole = $this->workedOut('2025-01-01', self::DAY, self::DAY);
        self::assertStringContainsString('CI-25-00002', (string) file_get_contents($this->folder.'/audit.xml'));
        $part = $this->workedOut('2026-01-01', self::DAY, self::DAY);
        self::assertStringNotContainsString('CI-25-00002', (string) file_get_contents($this->folder.'/audit.xml'));
        self::assertSame($whole['open'], $part['open']);
    }

    public function testTheCsvHasItsControlTotalsAndSums(): void
    {
        self::get(AuditCsv::class)->write($this->company(), Day::of('2026-01-01'), Day::of(self::DAY), $this->folder);
        $read = function (string $name): array {
            $rows = array_map(
                static fn (string $l): array => array_map('strval', str_getcsv($l, ',', '"', '')),
                array_filter(explode("\r\n", (string) file_get_contents($this->folder.'/'.$name.'.csv'))),
            );
            $header = array_shift($rows) ?? self::fail();

            return array_map(static fn (array $r): array => array_combine($header, $r), $rows);
        };
        $control = array_column($read('control'), 'value', 'what');
        $cents = static fn (array $rows, string $key): int => (int) array_sum(
            array_map(static fn (array $r): int => (int) str_replace('.', '', (string) $r[$key]), $rows),
        );
        $lines = $read('lines');
        self::assertSame((string) \count($lines), $control['lines']);
        self::assertSame((int) str_replace('.', '', $control['debit']), $cents($lines, 'debit'));
        self::assertSame($cents($lines, 'credit'), $cents($lines, 'debit'));
        self::assertSame(hash_file('sha256', $this->folder.'/lines.csv'), $control['sha256 of lines.csv']);
        $accounts = $read('accounts');
        self::assertSame([0, 0], [$cents($accounts, 'opening'), $cents($accounts, 'closing')]);
    }

    public function testByThePage(): void
    {
        $this->as('auditor');
        $page = $this->page('/TEST/close/audit-file?from=2026-01-01&to=2026-06-15');
        self::assertStringContainsString('Debits and credits are equal', $page->filter('.foot')->text());
        foreach (['xml' => 'application/xml; charset=UTF-8', 'csv' => 'application/zip'] as $as => $type) {
            $this->browser->request('GET', '/TEST/close/audit-file?from=2026-01-01&as='.$as);
            self::assertSame($type, $this->browser->getResponse()->headers->get('Content-Type'));
        }
        $this->as('payables');
        $this->browser->request('GET', '/TEST/close/audit-file?as=xml');
        self::assertSame(403, $this->browser->getResponse()->getStatusCode());
    }
}
