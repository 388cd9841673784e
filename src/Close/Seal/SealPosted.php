<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Seal;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Work\Chore;

/**
 * Seals what was posted since, a few hundred records at a time. The worker does it within seconds and not the transaction that posts: the
 * end of a chain is one row, for which all clerks of a company would wait until each other's commits are through. The records of one
 * pass are chained in the order of their numbers.
 */
final readonly class SealPosted implements Chore
{
    private const AT_ONCE = 500;

    /** No transaction lasts so many seconds: whoever has a lower id has committed by then. */
    private const SETTLED = 900;

    public function __construct(private Transaction $transaction, private Connection $db, private Digests $digests)
    {
    }

    public function do(): bool
    {
        $more = false;
        foreach ($this->db->fetchFirstColumn('SELECT id FROM company ORDER BY id') as $company) {
            $more = $this->company((int) $company) || $more;
        }

        return $more;
    }

    /** @return bool whether anything was sealed, so that there may be more */
    public function company(int $companyId): bool
    {
        $waiting = [];
        foreach (SealedKind::cases() as $kind) {
            $waiting[$kind->value] = $this->unsealed($companyId, $kind);
        }
        if ([] === array_filter($waiting)) {
            return false;
        }

        return $this->transaction->run(function () use ($companyId, $waiting): bool {
            $this->db->executeStatement('INSERT IGNORE INTO seal_head (company_id, n, chain) VALUES (?, 0, ?)', [
                $companyId,
                Digests::start($companyId),
            ]);
            $head = $this->db->fetchAssociative('SELECT n, chain FROM seal_head WHERE company_id = ? FOR UPDATE', [
                $companyId,
            ]);
            if (false === $head) {
                return false;
            }
            $n = (int) $head['n'];
            $chain = (string) $head['chain'];
            $rows = $values = [];
            foreach (SealedKind::cases() as $kind) {
                // another worker may have been first
                $ids = $this->still($companyId, $kind, $waiting[$kind->value]);
                $digests = $this->digests->of($kind, $ids);
                foreach ($ids as $id) {
                    if (isset($digests[$id])) {
                        $chain = Digests::link($chain, ++$n, $kind, $id, $digests[$id]);
                        $rows[] = '(?, ?, ?, ?, ?, ?)';
                        array_push($values, $companyId, $n, $kind->value, $id, $digests[$id], $chain);
                    }
                }
                $full = self::AT_ONCE === \count($waiting[$kind->value]);
                $this->moveMark($companyId, $kind, $full ? end($waiting[$kind->value]) : null);
            }
            foreach (array_chunk($rows, self::AT_ONCE) as $k => $chunk) {
                $this->db->executeStatement(
                    'INSERT INTO seal (company_id, n, subject, subject_id, digest, chain) VALUES '.
                        implode(', ', $chunk),
                    \array_slice($values, $k * self::AT_ONCE * 6, \count($chunk) * 6),
                );
            }
            $this->db->executeStatement('UPDATE seal_head SET n = ?, chain = ? WHERE company_id = ?', [
                $n,
                $chain,
                $companyId,
            ]);

            return [] !== $rows;
        });
    }

    /** @return list<int> the oldest first */
    private function unsealed(int $companyId, SealedKind $kind): array
    {
        $from = $kind->rows();
        $order = $kind->column();
        $most = self::AT_ONCE;

        return array_map(
            'intval',
            $this->db->fetchFirstColumn(
                // each is looked up along the index; the whole seal is not read into a table of its own for so few
                <<<SQL
                SET STATEMENT optimizer_switch = 'materialization=off' FOR
                SELECT r.id
                FROM $from AND NOT EXISTS (
                    SELECT 1 FROM seal s WHERE s.company_id = :company AND s.subject = :subject AND s.subject_id = r.id
                )
                ORDER BY $order, r.id
                LIMIT $most
                SQL
                ,
                ['company' => $companyId, 'subject' => $kind->value, 'mark' => $this->marked($companyId, $kind)],
            ),
        );
    }

    /**
     * @param list<int> $ids
     *
     * @return list<int> those that nobody sealed meanwhile, in the order of their chain
     */
    private function still(int $companyId, SealedKind $kind, array $ids): array
    {
        if ([] === $ids) {
            return [];
        }
        $sealed = $this->db->fetchFirstColumn(
            'SELECT subject_id FROM seal WHERE company_id = ? AND subject = ? AND subject_id IN (?)',
            [$companyId, $kind->value, $ids],
            [2 => ArrayParameterType::INTEGER],
        );
        $ordered = $this->db->fetchFirstColumn($kind->inOrder(), [$ids], [ArrayParameterType::INTEGER]);

        return array_values(array_diff(array_map('intval', $ordered), array_map('intval', $sealed)));
    }

    private function marked(int $companyId, SealedKind $kind): int
    {
        return (int) $this->db->fetchOne('SELECT mark FROM seal_mark WHERE company_id = ? AND subject = ?', [
            $companyId,
            $kind->value,
        ]);
    }

    /**
     * Everything of a kind is sealed, or everything up to a record: what of it is so old that no transaction can still add to it need
     * not be looked at again.
     *
     * @param int|null $through the record's id, the last of a pass that may not be the last
     */
    private function moveMark(int $companyId, SealedKind $kind, ?int $through): void
    {
        $from = $kind->rows();
        $order = $kind->order();
        $made = $kind->made();
        $settled = self::SETTLED;
        $with = ['company' => $companyId, 'mark' => $this->marked($companyId, $kind)];
        $most = '';
        if (null !== $through) {
            $with['most'] = $this->db->fetchOne("SELECT FLOOR($order) FROM $from AND r.id = :through", [
                ...$with,
                'through' => $through,
            ]);
            if (!is_numeric($with['most'])) {
                return;
            }
            $most = ' AND '.$kind->upToMost();
        }
        $mark = $this->db->fetchOne(
            "SELECT FLOOR(MAX($order)) FROM $from AND $made < UTC_TIMESTAMP() - INTERVAL $settled SECOND$most",
            $with,
        );
        if (is_numeric($mark)) {
            $this->db->executeStatement(
                'INSERT INTO seal_mark (company_id, subject, mark) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE mark = VALUES(mark)',
                [$companyId, $kind->value, (int) $mark],
            );
        }
    }
}
