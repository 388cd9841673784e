<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Numbering;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/** Reverses a posted document and posts its corrected form, in one action; both are linked and nothing is overwritten. */
final readonly class PutRight
{
    public function __construct(
        private Transaction $transaction,
        private ReverseDocument $reverseDocument,
        private PostInvoice $postInvoice,
        private Connection $db,
        private History $history,
        private Numbering $numbering,
    ) {
    }

    /**
     * @return int the id of the corrected document
     *
     * @throws Refused while it is settled even in part, naming what to undo first; or when the corrected form cannot be posted
     */
    public function putRight(
        Actor $actor,
        int $documentId,
        InvoiceInput $input,
        string $reason,
        ?FormKey $form = null,
    ): int {
        return $this->transaction->once($actor, 'put right', $form, function () use (
            $actor,
            $documentId,
            $input,
            $reason,
        ): int {
            $old = $this->db->fetchAssociative(
                'SELECT number, side, kind FROM document WHERE id = ? AND company_id = ?',
                [$documentId, $actor->companyId],
            );
            if (false === $old || $old['side'] !== $input->side->value || $old['kind'] !== $input->kind->value) {
                throw Refused::because(
                    'kind',
                    'A document is put right as the kind it is; reverse it to enter it as another.',
                );
            }
            $this->reverseDocument->reverse($actor, $documentId, trim($reason), true);
            $id = $this->postInvoice->post($actor, $input);
            $this->db->executeStatement(
                <<<'SQL'
                UPDATE document d
                JOIN document o ON o.id = ?
                SET d.replaces_id = o.id, d.reference = IF(d.reference = '', o.reference, d.reference)
                WHERE d.id = ?
                SQL
                ,
                [$documentId, $id],
            );
            $this->db->executeStatement(
                "UPDATE stored_file SET subject_id = ? WHERE company_id = ? AND subject = 'paper' AND subject_id = ?",
                [$id, $actor->companyId, $documentId],
            );
            $this->numbering->then(function () use ($actor, $documentId, $id, $old): void {
                $number = (string) $this->db->fetchOne('SELECT number FROM document WHERE id = ?', [$id]);
                $this->history->note($actor, 'document', $documentId, 'put right', 'as '.$number);
                $this->history->note($actor, 'document', $id, 'puts right', (string) $old['number']);
            });

            return $id;
        });
    }
}
