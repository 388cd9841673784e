<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Audit;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;

/**
 * Rows of a large table in order of their ids, a window of ids at a time. A window is read by the primary key whatever else is asked of the
 * rows, so the time grows with the table and no faster, and no more than one window stands in memory.
 */
final readonly class AuditSlices
{
    private const WINDOW = 2000;
    private const SLICE = 1000;

    public function __construct(private Connection $db)
    {
    }

    /**
     * @param string $table whose ids :after and :through mean in the statement
     * @param array{company: int, ...} $with the statement's other parameters
     *
     * @return \Generator<int, array<string, mixed>> rows in order of id
     */
    public function of(string $table, string $sql, array $with): \Generator
    {
        [$first, $last] = array_map(
            'intval',
            $this->db->fetchNumeric("SELECT MIN(id), MAX(id) FROM $table WHERE company_id = ?", [$with['company']]) ?: [
                0,
                0,
            ],
        );
        for ($after = max(0, $first - 1); $after < $last; $after += self::WINDOW) {
            yield from $this->db->fetchAllAssociative($sql, [
                ...$with,
                'after' => $after,
                'through' => $after + self::WINDOW,
            ]);
        }
    }

    /**
     * @param \Generator<int, array<string, mixed>> $rows
     * @param string $name the key each row gets its children under
     * @param string $of the children's column that names the row
     *
     * @return \Generator<int, array<string, mixed>>
     */
    public function withChildren(\Generator $rows, string $name, string $of, string $sql): \Generator
    {
        $slice = [];
        foreach ($rows as $row) {
            $slice[(int) $row['id']] = [...$row, $name => []];
            if (self::SLICE === \count($slice)) {
                yield from $this->filled($slice, $name, $of, $sql);
                $slice = [];
            }
        }
        yield from $this->filled($slice, $name, $of, $sql);
    }

    /**
     * @param array<int, array<string, mixed>> $slice
     *
     * @return list<array<string, mixed>>
     */
    private function filled(array $slice, string $name, string $of, string $sql): array
    {
        $children =
            [] === $slice
                ? []
                : $this->db->fetchAllAssociative(
                    $sql,
                    ['ids' => array_keys($slice)],
                    ['ids' => ArrayParameterType::INTEGER],
                );
        foreach ($children as $child) {
            $slice[(int) $child[$of]][$name][] = $child;
        }

        return array_values($slice);
    }
}
