<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Ledger\Side;
use PHPUnit\Framework\Attributes\DataProvider;
use Symfony\Component\DomCrawler\Crawler;

/**
 * What the panel showed before is what was posted, account by account; what the message says of the control accounts after is what they
 * did, no more and no less.
 */
final class TrueWordsTest extends ScreenCase
{
    /** Control accounts as a message calls them, and the sign of their normal balance. */
    private const CONTROLS = [
        '1200' => ['receivables', 1],
        '2100' => ['payables', -1],
        '2150' => ['customer prepayments', -1],
        '2160' => ['refunds payable', -1],
        '2170' => ['unidentified receipts', -1],
        '1050' => ['money on hand', 1],
    ];

    /** @return array<string, int> what every account holds, by number */
    private function ledger(): array
    {
        return array_map(
            'intval',
            $this->db()->fetchAllKeyValue(
                <<<'SQL'
                SELECT a.number, COALESCE(SUM(l.base), 0)
                FROM account a
                LEFT JOIN journal_line l ON l.account_id = a.id
                WHERE a.company_id = ?
                GROUP BY a.number
                SQL
                ,
                [$this->clerk->companyId],
            ),
        );
    }

    /** @return array<string, int> what the T-accounts of a panel come to, by number */
    private static function shown(Crawler $panel): array
    {
        $shown = [];
        foreach ($panel->filter('.t') as $t) {
            $of = new Crawler($t);
            $number = $of->filter('.t-head span')->text();
            $sum = 0;
            foreach ([1, -1] as $k => $sign) {
                preg_match_all(
                    '/[\d,]+\.\d\d/',
                    strip_tags(str_replace('<br>', ' ', $of->filter('.t-body > div')->eq($k)->html())),
                    $m,
                );
                foreach ($m[0] as $amount) {
                    $sum += $sign * (int) str_replace([',', '.'], '', $amount);
                }
            }
            $shown[$number] = ($shown[$number] ?? 0) + $sum;
        }

        return array_filter($shown);
    }

    /** @param array<string, int> $moved */
    private static function on(array $moved, string $number): int
    {
        return $moved[$number] ?? 0;
    }

    /** @return iterable<string, array{string, array<string, mixed>}> mode and what is typed; ITEM and CREDIT stand for items */
    public static function actions(): iterable
    {
        $placed = ['placed' => ['ITEM' => '500']];
        yield 'in full' => ['receipt', ['amount' => '500', ...$placed]];
        yield 'in part' => ['receipt', ['amount' => '200', 'placed' => ['ITEM' => '200']]];
        yield 'nothing placed' => ['receipt', ['amount' => '500']];
        $short = static fn (string $rest): array => [
            'amount' => '490',
            'placed' => ['ITEM' => '490'],
            'rest' => ['ITEM' => $rest],
            'rest_reason' => ['ITEM' => 'because'],
        ];
        yield 'short, a claim' => ['receipt', $short('claim')];
        yield 'short, bank charge' => ['receipt', $short('charge')];
        yield 'short, bad debt' => ['receipt', $short('bad')];
        yield 'short, by the allowance' => ['receipt', $short('allowance')];
        yield 'short, tax withheld' => ['receipt', $short('withheld')];
        yield 'short, another account' => ['receipt', [...$short('account'), 'rest_account' => ['ITEM' => '6400']]];
        $over = static fn (string $kind): array => [
            'amount' => '560',
            ...$placed,
            'kind' => $kind,
            'kind_reason' => 'because',
        ];
        yield 'over, unapplied' => ['receipt', $over('unapplied')];
        yield 'over, prepayment' => ['receipt', $over('prepayment')];
        yield 'over, prepayment with tax' => ['receipt', [...$over('prepayment'), 'kind_tax' => 'S8']];
        yield 'over, given back' => ['receipt', $over('refund')];
        yield 'over, another account' => [
            'receipt',
            [...$over('account'), 'amount' => '545', 'kind_account' => '4000'],
        ];
        yield 'less a credit' => ['receipt', ['amount' => '400', 'placed' => ['ITEM' => '500', 'CREDIT' => '100']]];
        yield 'by check' => ['receipt', ['amount' => '500', ...$placed, 'method' => 'check']];
        yield 'nobody knows' => ['receipt', ['amount' => '77.10', 'party' => '?']];
        yield 'a prepayment alone' => ['receipt', ['amount' => '240', 'kind' => 'prepayment', 'kind_tax' => 'S8']];
        yield 'without money' => ['settle', ['placed' => ['ITEM' => '100', 'CREDIT' => '100']]];
    }

    /** @param array<string, mixed> $typed */
    #[DataProvider('actions')]
    public function testPanelJournalAndMessageSayTheSame(string $mode, array $typed): void
    {
        $this->db()->executeStatement("UPDATE tax_code SET taxes_prepayments = 1 WHERE code = 'S8'");
        $this->db()->executeStatement("UPDATE party SET withholding_percent = 2 WHERE code = 'C-1'");
        self::get(EntityManagerInterface::class)->clear();
        self::get(CodeBook::class)->reset();
        self::get(Settings::class)->keep($this->clerk->companyId, ['deposit_slips' => 'yes']);
        $ids = [
            'ITEM' => $this->itemOf($this->invoice(Side::Receivables, '500.00', ['terms' => 'N30'])),
            'CREDIT' => $this->itemOf($this->invoice(Side::Receivables, '100.00', ['kind' => 'credit_note'])),
        ];
        foreach ($typed as $name => $value) {
            if (\is_array($value)) {
                $typed[$name] = array_combine(
                    array_map(static fn (string $k): int => $ids[$k], array_keys($value)),
                    $value,
                );
            }
        }
        $path = '/TEST/receivables/'.$mode;
        $typed = ['party' => 'C-1', 'date' => '.', 'bank' => '1000', 'method' => 'transfer', ...$typed];
        $shown = self::shown($this->post($path, $path.'/live', $typed));
        $before = $this->ledger();
        $said = $this->post($path, $path, [...$typed, '_key' => 'a'])
            ->filter('.said-done, .said-refused')
            ->text();
        $moved = [];
        foreach ($this->ledger() as $number => $balance) {
            $moved[(string) $number] = $balance - ($before[$number] ?? 0);
        }
        $moved = array_filter($moved);
        ksort($shown);
        ksort($moved);
        self::assertSame($shown, $moved, $said);
        foreach (self::CONTROLS as $number => [$name, $sign]) {
            $by = $sign * self::on($moved, (string) $number);
            $words = \sprintf('%s %s by %s USD', $name, $by > 0 ? 'rose' : 'fell', number_format(abs($by) / 100, 2));
            0 === $by
                ? self::assertStringNotContainsStringIgnoringCase($name.' rose', $said)
                : self::assertStringContainsStringIgnoringCase($words, $said);
            self::assertSame((int) (0 !== $by), preg_match_all('/\b'.$name.' (rose|fell)/i', $said), $said);
        }
    }
}
