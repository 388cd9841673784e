<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\DBAL\Connection;
use Nelbix\App\Invoices\KeepDraft;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/** What a sister company invoiced and we lack becomes a draft here, to be looked through and posted like any other. */
final readonly class MirrorInvoice
{
    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private PairingLock $lock,
        private KeepDraft $keepDraft,
        private History $history,
    ) {
    }

    /**
     * @param Actor $actor in the company that lacks it
     *
     * @return int the draft
     *
     * @throws Refused when it is there, paired by now, or not of the other company
     */
    public function draft(Actor $actor, int $setId, int $rowId): int
    {
        return $this->transaction->run(function () use ($actor, $setId, $rowId): int {
            $set = $this->lock->set($actor, $setId);
            $row = $this->db->fetchAssociative(
                <<<'SQL'
                SELECT r.*, d.number AS document, d.kind, d.document_date, d.due_date, d.description, d.their_number
                FROM pairing_row r
                JOIN document d ON d.id = r.document_id
                WHERE r.id = ? AND r.set_id = ?
                FOR UPDATE
                SQL
                ,
                [$rowId, $setId],
            );
            $own = 'left' === ($row['side'] ?? '') ? $set->source('right') : $set->source('left');
            if (
                false === $row
                || $own->companyId !== $actor->companyId
                || null === $own->side
                || null === $own->partyId
            ) {
                throw Refused::because(
                    '',
                    'Only what the other company has and this one lacks can be taken over as a draft.',
                );
            }
            if (null !== $row['pair_id']) {
                throw Refused::because('', \sprintf('%s is paired by now; load the page anew.', $row['number']));
            }
            $kind = DocumentKind::tryFrom((string) $row['kind']);
            if (null === $kind || !$kind->isInvoiced()) {
                throw Refused::because(
                    '',
                    'Only an invoice, a credit note or a debit note has a mirror; money is recorded where it moved.',
                );
            }
            $theirs = Side::Payables === $own->side ? (string) $row['document'] : (string) $row['their_number'];
            $there = $this->db->fetchOne(
                "SELECT id FROM document WHERE company_id = ? AND side = ? AND party_id = ? AND their_number = ? AND state <> 'reversed'",
                [$actor->companyId, $own->side->value, $own->partyId, $theirs],
            );
            if (false !== $there) {
                throw Refused::because(
                    '',
                    \sprintf('%s is here already, as a draft or posted; run the set again.', $theirs),
                );
            }
            $party =
                $this->db->fetchAssociative(
                    'SELECT p.code, a.number AS account FROM party p LEFT JOIN account a ON a.id = p.default_account_id WHERE p.id = ?',
                    [$own->partyId],
                ) ?:
                throw new \LogicException('The party is gone.');
            $draft = $this->keepDraft->keep($actor, $own->side, [
                'kind' => $kind->value,
                'party' => (string) $party['code'],
                'number' => $theirs,
                'document_date' => (string) $row['document_date'],
                'due_date' => (string) $row['due_date'],
                'currency' => $set->currency,
                'description' => (string) $row['description'],
                'lines' => [
                    [
                        'account' => (string) $party['account'],
                        'text' => (string) $row['description'],
                        'amount' => Money::of(abs((int) $row['amount']), $set->currency)->decimal(),
                        'tax_code' => '',
                    ],
                ],
            ]);
            $this->history->note($actor, 'pairing_set', $setId, 'mirrored', $theirs);

            return $draft->id();
        });
    }
}
