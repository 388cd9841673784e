<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\Core\Refused;

/** Entries that lines are placed on: how much of each is left, and what becomes of their checks. Call inside a transaction. */
final readonly class JoinedEntries
{
    public function __construct(private Connection $db, private Movements $movements, private History $history)
    {
    }

    /**
     * What a choice takes of each record, once it is there, moved this account in this direction and is not taken already.
     *
     * @return array<int, array{int, int}> amount and document by entry
     *
     * @throws Refused
     */
    public function parts(Actor $actor, Line $line, Choice $choice): array
    {
        $asked = [];
        foreach ($choice->entries as [$entry, $amount]) {
            $asked[$entry] = ($asked[$entry] ?? 0) + $amount;
        }
        if ([] === $asked) {
            throw Refused::because('', 'Choose what the line is joined with.');
        }
        $found = $this->movements->lock($actor->companyId, $line->bankAccountId, array_keys($asked));
        $parts = [];
        foreach ($asked as $entry => $amount) {
            $is =
                $found[$entry] ??
                throw Refused::because('', 'What the line should be joined with is not on this bank account.');
            $left = $is['moved'] - $is['taken'];
            if (0 === $left) {
                throw Refused::because('', \sprintf('%s stands on a statement already.', $is['number']));
            }
            if (0 === $amount || ($amount <=> 0) !== ($left <=> 0) || abs($amount) > abs($left)) {
                throw Refused::because(
                    'amount',
                    \sprintf('Of %s less is left than the line would take.', $is['number']),
                );
            }
            $parts[$entry] = [$amount, $is['document']];
        }

        return $parts;
    }

    /** What no line took of an entry. */
    public function left(Actor $actor, Line $line, int $entry): int
    {
        $is = $this->movements->lock($actor->companyId, $line->bankAccountId, [$entry])[$entry] ?? null;

        return null === $is
            ? throw Refused::because('bank', 'It did not move this bank account.')
            : $is['moved'] - $is['taken'];
    }

    /** The entry of a receipt or payment. */
    public function ofDocument(int $documentId): int
    {
        return (int) $this->db->fetchOne(
            "SELECT MIN(id) FROM journal_entry WHERE source_kind = 'document' AND source_id = ?",
            [$documentId],
        );
    }

    /** @return list<int> the entries of a receipt and of what it settled, as they stand: a bounce reverses them */
    public function ofReceipt(Actor $actor, int $documentId): array
    {
        return array_map(
            'intval',
            $this->db->fetchFirstColumn(
                <<<'SQL'
                SELECT e.id
                FROM journal_entry e
                LEFT JOIN journal_entry r ON r.reverses_id = e.id
                WHERE e.company_id = :company AND e.reverses_id IS NULL AND r.id IS NULL
                    AND (e.source_kind = 'document' AND e.source_id = :document
                        OR e.source_kind = 'settlement' AND e.source_id IN (SELECT l.settlement_id FROM settlement_line l
                            JOIN open_item i ON i.id = l.item_id WHERE i.document_id = :document))
                ORDER BY e.id
                SQL
                ,
                ['company' => $actor->companyId, 'document' => $documentId],
            ),
        );
    }

    /** @return array{int, int} the document that reverses a receipt, and its entry on the bank account */
    public function oppositeOf(int $documentId): array
    {
        $opposite = (int) $this->db->fetchOne('SELECT MAX(id) FROM document WHERE reverses_id = ?', [$documentId]);

        return [$opposite, $this->ofDocument($opposite)];
    }

    /** The bank paid the check of a payment: from then on it cannot be voided. */
    public function cleared(Actor $actor, int $documentId, int $entry, Line $line): void
    {
        if (0 === $documentId) {
            return;
        }
        $check = $this->db->fetchAssociative(
            "SELECT id, check_book_id, number FROM bank_check WHERE document_id = ? AND state = 'issued' FOR UPDATE",
            [$documentId],
        );
        if (false === $check || 0 !== $this->left($actor, $line, $entry)) {
            return;
        }
        $this->db->executeStatement("UPDATE bank_check SET state = 'cleared' WHERE id = ?", [$check['id']]);
        $this->history->note(
            $actor,
            'check_book',
            (int) $check['check_book_id'],
            'cleared',
            \sprintf('%s on %s', $check['number'], $line->day->iso()),
        );
    }

    /** The line that cleared it is undone. */
    public function unclear(int $documentId): void
    {
        $this->db->executeStatement(
            "UPDATE bank_check SET state = 'issued' WHERE document_id = ? AND state = 'cleared'",
            [$documentId],
        );
    }
}
