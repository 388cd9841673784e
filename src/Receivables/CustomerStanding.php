<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\WrittenOffOf;
use Nelbix\Core\Calendar\Day;

/** How a customer pays, and what was agreed and sent of late, for its page: two queries. */
final readonly class CustomerStanding
{
    /** What was settled within so many days is the trend. */
    private const OF_LATE = 90;

    public function __construct(private Connection $db)
    {
    }

    /**
     * Invoices settled in a year, days from document to settlement of the last 90 days and of those before, days past due; the promise
     * that holds; the last reminder.
     *
     * @return array{paid: int, days: ?int, late_days: ?int, days_before: ?int, promise: ?string, promised: string, rung: int,
     *     reminded: ?string, written_off: array<string, array{int, int}>}
     */
    public function of(int $partyId, Day $day): array
    {
        $writtenOff = WrittenOffOf::SUMS;
        $is =
            $this->db->fetchAssociative(
                <<<SQL
                SELECT one.*, k.until_on, k.text, r.rung, r.sent_on, $writtenOff AS written_off
                FROM (
                    SELECT COUNT(*) AS n, ROUND(AVG(IF(last_moved_on > :late, DATEDIFF(last_moved_on, document_date), NULL))) AS days,
                        ROUND(AVG(IF(last_moved_on > :late, NULL, DATEDIFF(last_moved_on, document_date)))) AS days_before,
                        ROUND(AVG(DATEDIFF(last_moved_on, due_date))) AS late_days
                    FROM open_item
                    WHERE party_id = :party AND open = 0 AND original > 0 AND kind = 'invoice'
                        AND last_moved_on BETWEEN :year AND :day
                ) one
                LEFT JOIN promise k ON k.id = (SELECT MAX(id) FROM promise WHERE party_id = :party AND taken_back_at IS NULL
                    AND until_on >= :day)
                LEFT JOIN reminder r ON r.id = (SELECT MAX(id) FROM reminder WHERE party_id = :party)
                SQL
                ,
                [
                    'party' => $partyId,
                    'late' => $day->plusDays(-self::OF_LATE)->iso(),
                    'year' => $day->plusDays(-365)->iso(),
                    'day' => $day->iso(),
                ],
            ) ?:
            [];
        $number = static fn (mixed $v): ?int => null === $v ? null : (int) $v;

        return [
            'paid' => (int) ($is['n'] ?? 0),
            'days' => $number($is['days'] ?? null),
            'late_days' => $number($is['late_days'] ?? null),
            'days_before' => $number($is['days_before'] ?? null),
            'promise' => isset($is['until_on']) ? (string) $is['until_on'] : null,
            'promised' => (string) ($is['text'] ?? ''),
            'rung' => (int) ($is['rung'] ?? 0),
            'reminded' => isset($is['sent_on']) ? (string) $is['sent_on'] : null,
            'written_off' => self::sums((string) ($is['written_off'] ?? '')),
        ];
    }

    /** @return array<string, array{int, int}> written off and recovered, minor units, by currency */
    private static function sums(string $said): array
    {
        $sums = [];
        foreach ('' === $said ? [] : explode(',', $said) as $of) {
            [$currency, $off, $recovered] = explode(' ', $of);
            $sums[$currency] = [(int) $off, (int) $recovered];
        }

        return $sums;
    }
}
