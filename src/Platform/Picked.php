<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\Connection;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * The rows that a person picked on a page of proposals, as they stand now: each has a key that says all that the page showed of it, so
 * that what is done is just what was seen. Call inside a transaction.
 */
final readonly class Picked
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * @template R of array{key: string}
     *
     * @param list<string> $keys of the rows that were picked
     * @param callable(): list<R> $now works the proposals out anew
     * @param string $nothing what is said when none is picked
     * @param string $changed what is said when one is no longer what the page showed
     *
     * @return non-empty-list<R>
     *
     * @throws Refused naming $field
     */
    public function rows(
        Actor $actor,
        string $field,
        array $keys,
        callable $now,
        string $nothing,
        string $changed,
    ): array {
        if ([] === $keys) {
            throw Refused::because($field, $nothing, ProblemKind::Missing);
        }
        // two who do it at once wait for each other here, and the second finds it done
        $this->db->executeQuery('SELECT id FROM company WHERE id = ? FOR UPDATE', [$actor->companyId]);
        $rows = array_values(array_filter($now(), static fn (array $row): bool => \in_array($row['key'], $keys, true)));
        if ([] === $rows || \count($rows) !== \count(array_unique($keys))) {
            throw Refused::because($field, $changed, ProblemKind::Taken);
        }

        return $rows;
    }
}
