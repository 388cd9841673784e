<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Goods\KeepOrder;
use Nelbix\App\Goods\OrderReader;
use Nelbix\App\Import\ImportFile;
use Nelbix\App\Platform\Settings;

/** Files of many records of each kind that is posted one by one. */
trait LongFiles
{
    private const RECORDS = 64;

    /** The file of a kind, and what it needs to be there. */
    protected function file(string $kind): string
    {
        $rows = self::rows(...);
        switch ($kind) {
            case 'receipts':
                self::get(Settings::class)->keep($this->clerk->companyId, ['deposit_slips' => 'yes']);
                $this->invoices('customer-invoices', 'R');

                // one in five is placed in part, or on nothing
                return $rows(
                    'party,date,bank,reference,currency,amount,method,apply_to,applied',
                    static fn (int $n): string => "C-1,2026-06-12,1000,CK $n,USD,".
                        (100 + $n).
                        '.00,check,'.
                        (0 === $n % 5 ? ",\n" : "R-$n,".(100 + $n - ($n % 3)).".00\n"),
                );
            case 'payments':
                $this->invoices('vendor-invoices', 'P');

                return $rows(
                    'party,date,bank,reference,currency,amount,method,apply_to,applied,discount',
                    static fn (int $n): string => "V-1,2026-06-12,1000,T $n,USD,".
                        (100 + $n).
                        '.00,transfer,P-'.
                        "$n,".
                        (100 + $n).
                        ".00,\n",
                );
            case 'settlements':
                $this->invoices('vendor-invoices', 'N');

                return $rows(
                    'settlement,party,side,date,document,applied',
                    static fn (int $n): string => "$n,V-1,payables,2026-06-12,N-$n,".
                        (50 + $n).
                        ".00\n".
                        "$n,V-1,payables,2026-06-12,K-$n,".
                        (50 + $n).
                        ".00\n",
                );
            case 'journal':
                return $rows(
                    'entry,date,text,account,debit,credit',
                    static fn (int $n): string => \sprintf(
                        "%d,2026-06-10,wages %1\$d,6400,%.2f,\n%1\$d,2026-06-10,wages %1\$d,3000,,%2\$.2f\n",
                        $n,
                        5 + $n / 100,
                    ),
                );
            default:
                self::get(KeepOrder::class)->enter(
                    $this->clerk,
                    self::get(OrderReader::class)->read($this->clerk, [
                        'party' => 'V-1',
                        'ordered_on' => '2026-06-01',
                        'lines' => [['account' => '1400', 'text' => 'oak', 'quantity' => '2500', 'price' => '0.25']],
                    ]),
                );

                return $rows(
                    'vendor,note,date,order,line,quantity',
                    static fn (int $n): string => "V-1,D-$n,2026-06-11,PO-26-00001,1,$n\n",
                );
        }
    }

    /** @param string $name the beginning of their numbers; N has a credit note K beside each */
    protected function invoices(string $kind, string $name): void
    {
        [$party, $account] = 'vendor-invoices' === $kind ? ['V-1', '5000'] : ['C-1', '4000'];
        $csv = self::rows(
            'party,number,document_date,account,amount,kind',
            static fn (int $n): string => "$party,$name-$n,2026-06-02,$account,".
                (100 + $n).
                ".00,invoice\n".
                ('N' === $name ? "$party,K-$n,2026-06-02,$account,".(300 + $n).".00,credit_note\n" : ''),
        );
        self::assertSame([], self::get(ImportFile::class)->import($this->clerk, $kind, $csv)['errors']);
    }

    /** @param callable(int): string $row */
    protected static function rows(string $head, callable $row): string
    {
        return $head."\n".implode('', array_map($row, range(1, self::RECORDS)));
    }
}
