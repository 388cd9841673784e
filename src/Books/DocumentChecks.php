<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\CheckState;
use Nelbix\App\Ledger\Source;
use Nelbix\Core\Refused;

/** How a payment went out: by check, whose register follows when it comes back, or in a file that the bank has. */
final readonly class DocumentChecks
{
    public function __construct(
        private Connection $db,
        private MoneyThatLeft $left,
        private OnStatement $onStatement,
    ) {
    }

    /**
     * The check of a payment that is undone is void from then on. Call inside a transaction.
     *
     * @param bool $bankSaid the bank gives the money back, or says that it never took it
     *
     * @throws Refused when the bank has it, or is to get it, and did not say so
     */
    public function giveUp(int $documentId, string $reason, bool $bankSaid = false): void
    {
        if (!$bankSaid) {
            $this->onStatement->mustNotHold(Source::document($documentId));
        }
        $this->mustNotBeInAFile($documentId, $bankSaid);
        $check = $this->db->fetchAssociative(
            'SELECT id, number, state FROM bank_check WHERE document_id = ? ORDER BY id DESC LIMIT 1 FOR UPDATE',
            [$documentId],
        );
        if (false === $check) {
            return;
        }
        if (CheckState::Cleared->value === $check['state'] && !$bankSaid) {
            throw Refused::because(
                'number',
                \sprintf(
                    'Check %d is cleared; the bank has paid it, so its payment cannot be voided or reversed.',
                    $check['number'],
                ),
            );
        }
        if (\in_array($check['state'], [CheckState::Issued->value, CheckState::Cleared->value], true)) {
            $this->db->executeStatement('UPDATE bank_check SET state = ?, reason = ? WHERE id = ?', [
                $bankSaid ? CheckState::Returned->value : CheckState::Voided->value,
                mb_substr($reason, 0, 255),
                $check['id'],
            ]);
        }
    }

    /** @throws Refused */
    private function mustNotBeInAFile(int $documentId, bool $bankSaid): void
    {
        $with = $this->left->with($documentId);
        if (null === $with || ($bankSaid && $with['sent'])) {
            return;
        }
        $words = match (true) {
            $with['sent'] => 'The bank has this payment, in %s. It comes back when the bank rejects it, or as returned: '.
                'somebody else records that.',
            $bankSaid => 'It is in bank file %s, which nobody said is at the bank. Say first that it is handed over.',
            default => 'It is in bank file %s, which the bank would carry out. Withdraw the file first.',
        };
        throw Refused::because('', \sprintf($words, $with['number']));
    }
}
