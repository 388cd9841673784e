<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Rates;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\SaveRate;
use Nelbix\App\Platform\Keyset;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Rate;

/** Exchange rates into a company's currency: the last of each currency with a small line, and the days of one. */
final readonly class RatesQuery
{
    private const LINE_DAYS = 182;
    private const PAGE = 60;

    public function __construct(private Connection $db)
    {
    }

    /**
     * By currency; line is the path of an SVG of 120 by 24 over half a year to the day, cross what one unit is worth in another
     * currency, by way of the base.
     *
     * @return list<array{currency: string, rate: string, day: string, source: string, days: int, line: string,
     *     cross: string}>
     */
    public function latest(int $companyId, string $base, Day $day, string $in): array
    {
        $from = $day->plusDays(-self::LINE_DAYS);
        $points = [];
        foreach (
            $this->db->iterateAssociative(
                <<<'SQL'
                SELECT r.from_currency, r.valid_on, r.rate, r.source
                FROM exchange_rate r
                JOIN (SELECT from_currency, MAX(valid_on) AS last FROM exchange_rate
                    WHERE company_id = :company AND to_currency = :base AND valid_on <= :day GROUP BY from_currency) l
                    ON l.from_currency = r.from_currency
                WHERE r.company_id = :company AND r.to_currency = :base AND r.valid_on <= :day
                    AND (r.valid_on >= :from OR r.valid_on = l.last)
                ORDER BY r.from_currency, r.valid_on
                SQL
                ,
                ['company' => $companyId, 'base' => $base, 'day' => $day->iso(), 'from' => $from->iso()],
            ) as $r
        ) {
            $points[(string) $r['from_currency']][] = $r;
        }
        $rows = [];
        foreach ($points as $currency => $of) {
            $last = end($of);
            $rows[] = [
                'currency' => (string) $currency,
                'rate' => self::plain((string) $last['rate']),
                'day' => (string) $last['valid_on'],
                'source' => SaveRate::SOURCES[$last['source']] ?? '',
                'days' => Day::of((string) $last['valid_on'])->daysUntil($day),
                'line' => self::line($of, $from),
                'cross' => self::cross((string) $currency, (string) $last['rate'], $in, $points),
            ];
        }

        return $rows;
    }

    /** @return array{rows: list<array<string, mixed>>, next: ?string} the newest first */
    public function days(int $companyId, string $currency, string $base, ?string $after): array
    {
        $keyset = new Keyset(['r.valid_on', 'r.id'], true);
        [$later, $place] = $keyset->after($after);
        [$keys, $order, $most] = [$keyset->select(), $keyset->order(), self::PAGE + 1];
        [$rows, $next] = $keyset->page(
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT r.id, r.valid_on, r.rate, r.source, $keys,
                    (SELECT CONCAT(h.detail, ' (', u.name, ')') FROM history h JOIN app_user u ON u.id = h.user_id
                        WHERE h.company_id = r.company_id AND h.subject = 'exchange_rate' AND h.subject_id = r.id
                        ORDER BY h.id DESC LIMIT 1) AS changed
                FROM exchange_rate r
                WHERE r.company_id = :company AND r.from_currency = :currency AND r.to_currency = :base$later
                ORDER BY $order
                LIMIT $most
                SQL
                ,
                ['company' => $companyId, 'currency' => $currency, 'base' => $base, ...$place],
            ),
            self::PAGE,
        );

        return [
            'rows' => array_map(
                static fn (array $r): array => [
                    ...$r,
                    'rate' => self::plain((string) $r['rate']),
                    'source' => SaveRate::SOURCES[$r['source']] ?? '',
                ],
                $rows,
            ),
            'next' => $next,
        ];
    }

    /** @param array<string, non-empty-list<array<string, mixed>>> $points by currency */
    private static function cross(string $currency, string $rate, string $in, array $points): string
    {
        if (!isset($points[$in]) || $currency === $in) {
            return '';
        }
        $other = end($points[$in]);

        return (string) Rate::cross(BigDecimal::of((string) $other['rate']), BigDecimal::of($rate));
    }

    private static function plain(string $rate): string
    {
        return str_contains($rate, '.') ? rtrim(rtrim($rate, '0'), '.') : $rate;
    }

    /** @param non-empty-list<array<string, mixed>> $points */
    private static function line(array $points, Day $from): string
    {
        // the ten places of the column, without their point
        $values = array_map(static fn (array $p): int => (int) str_replace('.', '', (string) $p['rate']), $points);
        [$low, $high] = [min($values), max($values)];
        $path = '';
        foreach ($points as $k => $p) {
            $x = 2 + (116 * max(0, $from->daysUntil(Day::of((string) $p['valid_on'])))) / self::LINE_DAYS;
            $y = 21 - ($high > $low ? (18 * ($values[$k] - $low)) / ($high - $low) : 9);
            $path .= \sprintf('%s%.1f %.1f', '' === $path ? 'M' : 'L', $x, $y);
        }

        return $path;
    }
}
