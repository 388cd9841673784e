<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\JournalQuery;
use Nelbix\App\Ledger\Source;

/**
 * The entries behind a number that a person names: of an entry itself, of a document with its settlements, or of a delivery.
 *
 * @phpstan-import-type EntryRow from JournalQuery
 */
final readonly class EntriesOfNumber
{
    public function __construct(private Connection $db, private JournalQuery $journal)
    {
    }

    /** @return list<EntryRow> */
    public function of(int $companyId, string $number): array
    {
        $document = $this->db->fetchOne('SELECT id FROM document WHERE company_id = ? AND number = ?', [
            $companyId,
            $number,
        ]);
        if (false !== $document) {
            return $this->journal->ofDocument($companyId, (int) $document);
        }
        $delivery = $this->db->fetchOne('SELECT id FROM delivery WHERE company_id = ? AND number = ?', [
            $companyId,
            $number,
        ]);

        return false === $delivery
            ? $this->journal->ofNumber($companyId, $number)
            : $this->journal->ofSource($companyId, Source::delivery((int) $delivery));
    }
}
