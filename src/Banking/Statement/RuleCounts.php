<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Placement\ReadingRule;
use Psr\Clock\ClockInterface;

/** The reading rules in use, and how often each was right. */
final readonly class RuleCounts
{
    public function __construct(private Connection $db, private ClockInterface $clock)
    {
    }

    /** @return array<int, array{rule: ReadingRule, parts: array<mixed>}> of a bank account, by id, in their order */
    public function inUse(int $companyId, int $bankId): array
    {
        $rules = [];
        foreach (
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT * FROM reading_rule
                WHERE company_id = ? AND retired = 0 AND (bank_account_id IS NULL OR bank_account_id = ?)
                ORDER BY place, id
                SQL
                ,
                [$companyId, $bankId],
            ) as $r
        ) {
            $rules[(int) $r['id']] = [
                'rule' => self::rule($r),
                'parts' => (array) json_decode((string) $r['parts'], true),
            ];
        }

        return $rules;
    }

    /** @param array<string, mixed> $r a row of reading_rule */
    public static function rule(array $r): ReadingRule
    {
        return new ReadingRule(
            (int) $r['id'],
            (string) $r['name'],
            self::words((string) $r['words']),
            (int) $r['direction'],
            null === $r['least'] ? null : (int) $r['least'],
            null === $r['most'] ? null : (int) $r['most'],
        );
    }

    /** @return list<string> */
    public static function words(string $typed): array
    {
        return array_values(
            array_filter(array_map('trim', explode(',', $typed)), static fn (string $w): bool => '' !== $w),
        );
    }

    /** @return int|null the rule's id when it is one of the company's */
    public function known(Actor $actor, int $rule): ?int
    {
        return 0 !== $rule
            && false !==
                $this->db->fetchOne('SELECT 1 FROM reading_rule WHERE id = ? AND company_id = ?', [
                    $rule,
                    $actor->companyId,
                ])
            ? $rule
            : null;
    }

    /** A line got its place: the first rule that fits it was right, or was passed over. */
    public function placed(Actor $actor, Line $line, Choice $choice): void
    {
        $bankLine = Line::toFind([
            'id' => $line->id(),
            'day' => $line->day->iso(),
            'waiting' => $line->amount,
            'text' => $line->text,
            'reference' => $line->reference,
            'party' => $line->party,
            'account' => $line->account,
            'check_number' => $line->checkNumber,
            'reversal' => $line->reversal,
        ]);
        foreach ($this->inUse($actor->companyId, $line->bankAccountId) as $id => ['rule' => $rule]) {
            if ($rule->fits($bankLine)) {
                $column = $id === $choice->rule ? 'taken' : 'passed_over';
                $this->db->executeStatement("UPDATE reading_rule SET $column = $column + 1 WHERE id = ?", [$id]);

                return;
            }
        }
    }

    public function now(): \DateTimeImmutable
    {
        return $this->clock->now();
    }
}
