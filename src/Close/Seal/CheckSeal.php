<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Seal;

use Doctrine\DBAL\Connection;

/**
 * Goes along the chain of a company and names every record that does not fit: changed, gone, put between, or put before; one of them does
 * not hide those behind it. A chain that is shorter than its records, or missing, is a finding, and so is one that does not lead to a head
 * that was written down outside. Source: rules.md, Year and seal.
 */
final readonly class CheckSeal
{
    private const AT_ONCE = 500;

    /** So many findings are named; whoever alters more has altered enough. */
    private const MOST = 50;

    /** What was posted so many seconds before the last record has been sealed long since, if anything seals here. */
    private const LONG_AGO = 3600;

    public function __construct(private Connection $db, private Digests $digests)
    {
    }

    /**
     * @param SealHead|null $outside a head that was written down elsewhere
     *
     * @return list<string> empty when everything fits, else a sentence for each that does not
     */
    public function of(int $companyId, ?SealHead $outside = null): array
    {
        $found = [];
        $chain = Digests::start($companyId);
        $n = $last = 0;
        $led = null === $outside || 0 === $outside->n;
        do {
            $rows = $this->db->fetchAllAssociative(
                'SELECT n, subject, subject_id, digest, chain FROM seal WHERE company_id = ? AND n > ? ORDER BY n LIMIT '.
                    self::AT_ONCE,
                [$companyId, $last],
            );
            $digests = $this->digestsOf($rows);
            foreach ($rows as $row) {
                $kind = SealedKind::tryFrom((string) $row['subject']);
                $id = (int) $row['subject_id'];
                if (++$n !== (int) $row['n'] || null === $kind) {
                    $found[] = \sprintf('link %d of the seal is missing', $n);
                }
                $n = $last = (int) $row['n'];
                if (null === $kind) {
                    $chain = (string) $row['chain'];
                    continue;
                }
                $chain = Digests::link($chain, $n, $kind, $id, (string) $row['digest']);
                if ($chain !== (string) $row['chain']) {
                    $found[] = \sprintf('link %d of the seal does not follow from the one before it', $n);
                    // what comes behind it is looked at from where it stands
                    $chain = (string) $row['chain'];
                }
                $led = $led || ($outside?->n === $n && $outside->is($chain));
                $digest = $digests[$kind->value][$id] ?? null;
                if ($digest !== (string) $row['digest']) {
                    $found[] = \sprintf(
                        '%s %s since it was sealed',
                        $this->name($kind, $id),
                        null === $digest ? 'has gone' : 'was changed',
                    );
                }
            }
        } while (self::AT_ONCE === \count($rows) && \count($found) < self::MOST);
        if (\count($found) >= self::MOST) {
            return [...\array_slice($found, 0, self::MOST), 'and more; the rest of the seal was not looked at'];
        }

        return [
            ...$found,
            ...$this->end($companyId, $n, $chain),
            ...$this->before($companyId),
            ...$this->unsealed($companyId),
            ...$led || null === $outside
                ? []
                : [
                    \sprintf(
                        'the seal does not lead to the head that was written down, %s: it has %d links',
                        $outside->words(),
                        $n,
                    ),
                ],
        ];
    }

    /** The head as it stands, to be written down outside; null while nothing is sealed. */
    public function head(int $companyId): ?SealHead
    {
        $head = $this->db->fetchAssociative(
            'SELECT n, LOWER(HEX(chain)) AS chain FROM seal_head WHERE company_id = ?',
            [$companyId],
        );

        return false === $head || 0 === (int) $head['n']
            ? null
            : new SealHead((int) $head['n'], (string) $head['chain']);
    }

    /** @return list<string> */
    private function end(int $companyId, int $n, string $chain): array
    {
        $head = $this->db->fetchAssociative('SELECT n, chain FROM seal_head WHERE company_id = ?', [$companyId]);
        if (false === $head) {
            return 0 === $n ? [] : [\sprintf('the seal has %d links and no head', $n)];
        }

        return (int) $head['n'] === $n && (string) $head['chain'] === $chain
            ? []
            : [\sprintf('the seal ends at link %d and says that it has %d', $n, $head['n'])];
    }

    /**
     * A document that was posted long before the last one and has no seal: the end of the chain was cut off, or all of it.
     *
     * @return list<string>
     */
    private function unsealed(int $companyId): array
    {
        $row = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT COUNT(*) AS n, MIN(d.number) AS first
            FROM document d
            WHERE d.company_id = :company AND d.number IS NOT NULL AND d.posted_at < (
                SELECT DATE_SUB(MAX(m.posted_at), INTERVAL :long SECOND) FROM document m WHERE m.company_id = :company
            ) AND NOT EXISTS (
                SELECT 1 FROM seal s WHERE s.company_id = :company AND s.subject = :subject AND s.subject_id = d.id
            )
            SQL
            ,
            ['company' => $companyId, 'long' => self::LONG_AGO, 'subject' => SealedKind::Document->value],
        );

        return false === $row || 0 === (int) $row['n']
            ? []
            : [
                \sprintf(
                    '%d documents were posted long ago and have no seal, the first of them %s',
                    $row['n'],
                    $row['first'],
                ),
            ];
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
