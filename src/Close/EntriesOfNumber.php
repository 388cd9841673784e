<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\JournalQuery;
use Nelbix\App\Ledger\Source;

/**
 * The entries behind a number that a person names: of an entry itself, of a document with its settlements, of a delivery, a return or a
 * deposit slip.
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
        $sources = [
            'delivery' => Source::delivery(...),
            'deposit_slip' => Source::deposit(...),
            'goods_slip' => Source::goodsSlip(...),
        ];
        foreach ($sources as $table => $source) {
            $id = $this->db->fetchOne("SELECT id FROM $table WHERE company_id = ? AND number = ?", [
                $companyId,
                $number,
            ]);
            if (false !== $id) {
                return $this->journal->ofSource($companyId, $source((int) $id));
            }
        }

        return $this->journal->ofNumber($companyId, $number);
    }
}
