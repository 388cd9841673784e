<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Charges\Rungs;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;

/**
 * Who is to be reminded, of what and why: two queries for all customers. Claims do not count, nor do items under a promise, nor customers
 * who owe less than the smallest amount. Source: rules.md, Reminders.
 *
 * @phpstan-type Due array{id: int, number: string, due: string, late: int, open: int, currency: string, document: int}
 * @phpstan-type Reminder array{key: string, party_id: int, code: string, name: string, language: string, street: string,
 *     city: string, country: string, email: string, ladder: string, rung: int, rungs: int, fee: int, text: string,
 *     why: string, overdue: int,
 *     items: non-empty-list<Due>}
 */
final readonly class RemindersQuery
{
    private const PLAIN = [
        'These items are past their due date. Perhaps they escaped you; please pay them, or tell us what is wrong.',
        'We reminded you before of items that are past due. Please pay them now, or call us today.',
        'Our earlier reminders were not answered. Please pay what is past due within a week; we must act otherwise.',
    ];

    public function __construct(private Connection $db, private Settings $settings)
    {
    }

    /** @return list<Reminder> by customer's code */
    public function of(int $companyId, string $baseCurrency, Day $day): array
    {
        $parties = [];
        foreach ($this->rows($companyId, $day) as $r) {
            $parties[(int) $r['party_id']][] = $r;
        }
        $smallest = $this->settings->of($companyId)->amount('reminder_above', $baseCurrency);
        $reminders = [];
        foreach ($parties as $id => $rows) {
            // the oldest that counts decides; the others go along
            $first = $rows[0];
            $days = array_map('intval', explode(' ', (string) $first['rungs']));
            $late = Day::of((string) $first['due_date'])->daysUntil($day);
            $rung = Rungs::next($days, $late, (int) $first['sent']);
            $overdue = array_sum(array_map(static fn (array $r): int => (int) $r['open_base'], $rows));
            if (0 === $rung || $overdue < $smallest) {
                continue;
            }
            $items = array_map(
                static fn (array $r): array => [
                    'id' => (int) $r['id'],
                    'number' => (string) $r['number'],
                    'due' => (string) $r['due_date'],
                    'late' => Day::of((string) $r['due_date'])->daysUntil($day),
                    'open' => (int) $r['open'],
                    'currency' => (string) $r['currency'],
                    'document' => (int) $r['document_id'],
                ],
                $rows,
            );
            $one = [
                'party_id' => $id,
                'code' => (string) $first['code'],
                'language' => (string) $first['language'],
                'name' => (string) $first['name'],
                'street' => (string) $first['street'],
                'city' => (string) $first['city'],
                'country' => (string) $first['country'],
                'email' => (string) $first['email'],
                'ladder' => (string) $first['ladder'],
                'rung' => $rung,
                'rungs' => \count($days),
                'fee' => self::fee((string) $first['fees'], $rung, $baseCurrency),
                'text' => self::text((string) $first['texts'], $rung),
                'why' => \sprintf(
                    '%s is %d days late, rung %d is at %d',
                    $first['number'],
                    $late,
                    $rung,
                    $days[$rung - 1] ?? 0,
                ),
                'overdue' => $overdue,
                'items' => $items,
            ];
            // all that a person sees of it: what is sent is just this
            $reminders[] = ['key' => substr(hash('sha256', json_encode($one, \JSON_THROW_ON_ERROR)), 0, 32), ...$one];
        }

        return $reminders;
    }

    private static function fee(string $fees, int $rung, string $baseCurrency): int
    {
        $fee = explode(' ', $fees)[$rung - 1] ?? '';

        return '' === $fee ? 0 : AmountInput::read($fee, Currency::of($baseCurrency))->minor;
    }

    private static function text(string $texts, int $rung): string
    {
        $text = trim(explode('|', $texts)[$rung - 1] ?? '');

        return '' === $text ? self::PLAIN[$rung - 1] ?? self::PLAIN[2] : $text;
    }

    /** @return list<array<string, mixed>> overdue items that count, by customer's code and due date */
    private function rows(int $companyId, Day $day): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT i.id, i.party_id, i.number, i.due_date, i.open, i.open_base, i.currency, i.document_id, p.code, p.name, p.language,
                p.street, p.city, p.country, p.email, l.name AS ladder, l.rungs, l.fees, l.texts,
                COALESCE((SELECT MAX(r.rung) FROM reminder_item m JOIN reminder r ON r.id = m.reminder_id WHERE m.item_id = i.id), 0)
                    AS sent
            FROM open_item i
            JOIN party p ON p.id = i.party_id AND p.nobody = 0
            JOIN reminder_ladder l ON l.id = p.reminder_ladder_id AND l.retired = 0
            JOIN document d ON d.id = i.document_id AND d.held_reason IS NULL
            WHERE i.company_id = :company AND i.side = 'receivables' AND i.is_open = 1 AND i.due_date < :day AND i.open > 0
                AND COALESCE(i.reserved_by_id, 0) >= 0
                AND i.kind NOT IN ('claim', 'refund_request')
                AND NOT EXISTS (SELECT 1 FROM promise k WHERE k.party_id = i.party_id AND k.until_on >= :day AND k.taken_back_at IS NULL)
            ORDER BY p.code, i.due_date, i.id
            SQL
            ,
            ['company' => $companyId, 'day' => $day->iso()],
        );
    }
}
