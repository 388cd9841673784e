<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Audit;

use Nelbix\App\Ledger\SourceKind;
use Nelbix\App\Platform\Company;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Money;

/** The audit file as CSV, a file for each table and one with their control totals and SHA-256 sums. */
final readonly class AuditCsv
{
    public function __construct(private AuditRows $rows)
    {
    }

    /** @param string $folder that is there; the files of the same names in it are replaced */
    public function write(Company $company, Day $from, Day $to, string $folder): void
    {
        $id = $company->id();
        $base = static fn (mixed $v): string => Money::of((int) $v, $company->baseCurrency)->decimal();
        $in = static fn (mixed $v, mixed $currency): string => Money::of((int) $v, (string) $currency)->decimal();
        $this->file(
            $folder,
            'accounts',
            ['number', 'name', 'type', 'role', 'opening', 'closing'],
            (function () use ($id, $from, $to, $base) {
                foreach ($this->rows->accounts($id, $from, $to) as $a) {
                    yield [
                        $a['number'],
                        $a['name'],
                        $a['type'],
                        $a['role'],
                        $base($a['opening']),
                        $base($a['closing']),
                    ];
                }
            })(),
        );
        $this->file(
            $folder,
            'parties',
            ['side', 'code', 'name', 'tax_number', 'opening', 'closing'],
            (function () use ($id, $from, $to, $base) {
                foreach (['payables', 'receivables'] as $side) {
                    foreach ($this->rows->parties($id, $side, $from, $to) as $p) {
                        yield [
                            $side,
                            $p['code'],
                            $p['name'],
                            $p['tax_number'],
                            $base($p['opening']),
                            $base($p['closing']),
                        ];
                    }
                }
            })(),
        );
        $lines = [
            'entry',
            'date',
            'text',
            'source',
            'document',
            'by',
            'position',
            'account',
            'debit',
            'credit',
            'currency',
            'amount',
            'party',
        ];
        $this->file(
            $folder,
            'lines',
            $lines,
            (function () use ($id, $from, $to, $base, $in) {
                foreach ([null, ...SourceKind::cases()] as $kind) {
                    foreach ($this->rows->entries($id, $kind, $from, $to) as $e) {
                        foreach ($e['lines'] as $l) {
                            yield [
                                $e['number'],
                                $e['posting_date'],
                                $e['text'],
                                $kind->value ?? 'by_hand',
                                $e['document'],
                                $e['username'],
                                $l['position'],
                                $l['account'],
                                $base(max(0, (int) $l['base'])),
                                $base(max(0, -(int) $l['base'])),
                                $e['currency'],
                                $in($l['amount'], $e['currency']),
                                $l['party'],
                            ];
                        }
                    }
                }
            })(),
        );
        $items = [
            'document',
            'kind',
            'side',
            'their_number',
            'document_date',
            'item',
            'account',
            'party',
            'posting_date',
            'due_date',
            'currency',
        ];
        $this->file(
            $folder,
            'items',
            [...$items, 'amount', 'base'],
            (function () use ($id, $from, $to, $base, $in) {
                foreach ($this->rows->documents($id, null, null, $from, $to) as $d) {
                    foreach ($d['items'] as $i) {
                        yield [
                            $d['number'],
                            $i['kind'],
                            $i['side'],
                            $d['their_number'],
                            $i['document_date'],
                            $i['number'],
                            $i['account'],
                            $i['party'],
                            $i['posting_date'],
                            $i['due_date'],
                            $i['currency'],
                            $in($i['original'], $i['currency']),
                            $base($i['original_base']),
                        ];
                    }
                }
            })(),
        );
        $settlements = [
            'settlement',
            'date',
            'undone_on',
            'side',
            'party',
            'kind',
            'item',
            'account',
            'currency',
            'amount',
            'base',
        ];
        $this->file(
            $folder,
            'settlements',
            $settlements,
            (function () use ($id, $from, $to, $base, $in) {
                foreach ($this->rows->settlements($id, $from, $to) as $s) {
                    foreach ($s['lines'] as $l) {
                        yield [
                            $s['id'],
                            $s['settled_on'],
                            $s['undone_on'],
                            $s['side'],
                            $s['party'],
                            $l['kind'],
                            $l['number'],
                            $l['account'],
                            $s['currency'],
                            $in($l['applied'], $s['currency']),
                            $base($l['applied_base']),
                        ];
                    }
                }
            })(),
        );
        $totals = $this->rows->totals($id, $from, $to);
        $this->file(
            $folder,
            'control',
            ['what', 'value'],
            (static function () use ($totals, $base, $folder, $from, $to, $company) {
                yield ['company', $company->code];
                yield ['base_currency', $company->baseCurrency];
                yield ['from', $from->iso()];
                yield ['through', $to->iso()];
                foreach ($totals as $what => $value) {
                    yield [$what, \in_array($what, ['debit', 'credit'], true) ? $base($value) : (string) $value];
                }
                foreach (['accounts', 'parties', 'lines', 'items', 'settlements'] as $name) {
                    yield ['sha256 of '.$name.'.csv', hash_file('sha256', $folder.'/'.$name.'.csv')];
                }
            })(),
        );
    }

    /**
     * @param list<string> $header
     * @param iterable<list<mixed>> $rows
     */
    private function file(string $folder, string $name, array $header, iterable $rows): void
    {
        $file =
            fopen($folder.'/'.$name.'.csv', 'w') ?: throw new \RuntimeException('No room for the audit file.');
        fputcsv($file, $header, ',', '"', '', "\r\n");
        foreach ($rows as $row) {
            fputcsv($file, array_map(static fn (mixed $v): string => (string) $v, $row), ',', '"', '', "\r\n");
        }
        fclose($file);
    }
}
