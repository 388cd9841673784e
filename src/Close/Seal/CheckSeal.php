<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Seal;

use Doctrine\DBAL\Connection;

/** Goes along the chain of a company and names the first record that does not fit: changed, gone, put between, or put before. */
final readonly class CheckSeal
{
    private const AT_ONCE = 500;

    public function __construct(private Connection $db, private Digests $digests)
    {
    }

    /** @return list<string> empty when everything fits, else one sentence */
    public function of(int $companyId): array
    {
        $chain = Digests::start($companyId);
        $n = 0;
        do {
            $rows = $this->db->fetchAllAssociative(
                'SELECT n, subject, subject_id, digest, chain FROM seal WHERE company_id = ? AND n > ? ORDER BY n LIMIT '.
                    self::AT_ONCE,
                [$companyId, $n],
            );
            $digests = $this->digestsOf($rows);
            foreach ($rows as $row) {
                $kind = SealedKind::tryFrom((string) $row['subject']);
                $id = (int) $row['subject_id'];
                if (++$n !== (int) $row['n'] || null === $kind) {
                    return [\sprintf('link %d of the seal is missing', $n)];
                }
                $chain = Digests::link($chain, $n, $kind, $id, (string) $row['digest']);
                if ($chain !== (string) $row['chain']) {
                    return [\sprintf('link %d of the seal does not follow from the one before it', $n)];
                }
                $digest = $digests[$kind->value][$id] ?? null;
                if ($digest !== (string) $row['digest']) {
                    return [
                        \sprintf(
                            '%s %s since it was sealed',
                            $this->name($kind, $id),
                            null === $digest ? 'has gone' : 'was changed',
                        ),
                    ];
                }
            }
        } while (self::AT_ONCE === \count($rows));
        $head = $this->db->fetchAssociative('SELECT n, chain FROM seal_head WHERE company_id = ?', [$companyId]);
        if (false !== $head && ((int) $head['n'] !== $n || (string) $head['chain'] !== $chain)) {
            return [\sprintf('the seal ends at link %d and says that it has %d', $n, $head['n'])];
        }

        return $this->before($companyId);
    }

    /**
     * @param list<array<string, mixed>> $rows
     *
     * @return array<string, array<int, string>> digests as the records stand now, by kind and id
     */
    private function digestsOf(array $rows): array
    {
        $digests = [];
        foreach (SealedKind::cases() as $kind) {
            $ids = array_map(
                static fn (array $r): int => (int) $r['subject_id'],
                array_filter($rows, static fn (array $r): bool => $r['subject'] === $kind->value),
            );
            $digests[$kind->value] = $this->digests->of($kind, array_values($ids));
        }

        return $digests;
    }

    /** @return list<string> a record that stands where everything is sealed, and has no seal */
    private function before(int $companyId): array
    {
        foreach (SealedKind::cases() as $kind) {
            $mark = $this->db->fetchOne('SELECT mark FROM seal_mark WHERE company_id = ? AND subject = ?', [
                $companyId,
                $kind->value,
            ]);
            if (!is_numeric($mark)) {
                continue;
            }
            $from = $kind->rows();
            $order = $kind->order();
            $id = $this->db->fetchOne(
                <<<SQL
                SELECT r.id
                FROM $from AND $order < :most AND NOT EXISTS (
                    SELECT 1 FROM seal s WHERE s.company_id = :company AND s.subject = :subject AND s.subject_id = r.id
                )
                LIMIT 1
                SQL
                ,
                ['company' => $companyId, 'mark' => 0, 'most' => (int) $mark, 'subject' => $kind->value],
            );
            if (is_numeric($id)) {
                return [\sprintf('%s stands before what is sealed and has no seal', $this->name($kind, (int) $id))];
            }
        }

        return [];
    }

    private function name(SealedKind $kind, int $id): string
    {
        $name = $this->db->fetchOne($kind->name(), ['id' => $id]);

        return \is_string($name) ? $name : \sprintf('%s %d', $kind->value, $id);
    }
}
