<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Period;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** Whether the numbers of a fiscal year have gaps: entries, and each kind of document that is numbered by Nelbix. */
final readonly class NumberGaps
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<array{sequence: string, used: int, there: int, missing: int}> by sequence */
    public function of(int $companyId, int $year): array
    {
        return array_map(
            static fn (array $r): array => [
                'sequence' => (string) $r['name'],
                'used' => (int) $r['used'],
                'there' => (int) $r['there'],
                'missing' => max(0, (int) $r['used'] - (int) $r['there']),
            ],
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT s.name, s.next_value AS used,
                    IF(s.name LIKE 'JE-%',
                        (SELECT COUNT(*) FROM journal_entry e WHERE e.company_id = s.company_id AND e.year = :year),
                        (SELECT COUNT(*) FROM document d WHERE d.company_id = s.company_id
                            AND d.number LIKE CONCAT(LEFT(s.name, 2), '-', LPAD(:year % 100, 2, '0'), '-%'))) AS there
                FROM number_sequence s
                WHERE s.company_id = :company AND s.name LIKE CONCAT('__-', :year)
                    AND LEFT(s.name, 2) IN (:prefixes)
                ORDER BY s.name
                SQL
                ,
                ['company' => $companyId, 'year' => $year, 'prefixes' => self::prefixes()],
                ['prefixes' => ArrayParameterType::STRING],
            ),
        );
    }

    /**
     * @param string $sequence such as VI-2026
     *
     * @return list<string> the numbers that are not there, at most a hundred
     */
    public function missing(int $companyId, string $sequence, int $used): array
    {
        [$prefix, $year] = [substr($sequence, 0, 2), (int) substr($sequence, 3)];
        $start = \sprintf('%s-%02d-', $prefix, $year % 100);
        $there = array_flip(
            array_map(
                'strval',
                $this->db->fetchFirstColumn(
                    'JE' === $prefix
                        ? 'SELECT number FROM journal_entry WHERE company_id = ? AND number LIKE ?'
                        : 'SELECT number FROM document WHERE company_id = ? AND number LIKE ?',
                    [$companyId, $start.'%'],
                ),
            ),
        );
        $missing = [];
        for ($n = 1; $n <= $used && \count($missing) < 100; ++$n) {
            $number = $start.\sprintf('%05d', $n);
            if (!isset($there[$number])) {
                $missing[] = $number;
            }
        }

        return $missing;
    }

    /** @return list<string> the letters of entries, and of every kind of document */
    private static function prefixes(): array
    {
        $prefixes = ['JE'];
        foreach (Side::cases() as $side) {
            foreach (DocumentKind::cases() as $kind) {
                $prefixes[] = $kind->prefix($side);
            }
        }

        return array_values(array_unique($prefixes));
    }
}
