<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\CheckState;
use Nelbix\Core\Refused;

/** The check behind a payment: money that went out by check comes back only through its check, and the register follows. */
final readonly class DocumentChecks
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * The check of a payment that is undone is void from then on. Call inside a transaction.
     *
     * @throws Refused when the bank has paid it
     */
    public function giveUp(int $documentId, string $reason): void
    {
        $check = $this->db->fetchAssociative(
            'SELECT id, number, state FROM bank_check WHERE document_id = ? ORDER BY id DESC LIMIT 1 FOR UPDATE',
            [$documentId],
        );
        if (false === $check) {
            return;
        }
        if (CheckState::Cleared->value === $check['state']) {
            throw Refused::because(
                'number',
                \sprintf(
                    'Check %d is cleared; the bank has paid it, so its payment cannot be voided or reversed.',
                    $check['number'],
                ),
            );
        }
        if (CheckState::Issued->value === $check['state']) {
            $this->db->executeStatement('UPDATE bank_check SET state = ?, reason = ? WHERE id = ?', [
                CheckState::Voided->value,
                mb_substr($reason, 0, 255),
                $check['id'],
            ]);
        }
    }
}
