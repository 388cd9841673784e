<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\People\SomebodyElse;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** A payment that the bank had comes back: a transfer returned, a check that cleared sent back. Somebody else than who paid it says so. */
final readonly class ReturnPayment
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private Connection $db,
        private SomebodyElse $somebodyElse,
        private ReverseDocument $reverseDocument,
    ) {
    }

    /**
     * @return int the opposite document's id
     *
     * @throws Refused when the bank never had it, or for whoever had a hand in it
     */
    public function record(Actor $actor, int $documentId, Day $day, string $reason): int
    {
        return $this->transaction->run(function () use ($actor, $documentId, $day, $reason): int {
            $document = $this->entities->find(Document::class, $documentId, LockMode::PESSIMISTIC_WRITE);
            if (null === $document || $document->companyId !== $actor->companyId) {
                throw Refused::because('', 'There is no such payment in this company.', ProblemKind::Unknown);
            }
            $at = $this->atTheBank($documentId);
            if (null === $at) {
                throw Refused::because('', \sprintf('The bank does not have %s; void it instead.', $document->number));
            }
            if ('' === trim($reason)) {
                throw Refused::because('reason', 'Say what the bank said.');
            }
            foreach ([$document->createdById, $at['sent_by_id'], $at['made_by_id']] as $madeBy) {
                $this->somebodyElse->mustBe(
                    $actor,
                    'document',
                    $documentId,
                    null === $madeBy ? null : (int) $madeBy,
                    'Somebody else must record that it came back; you paid it.',
                );
            }
            $this->db->executeStatement(
                "UPDATE bank_file_line SET state = 'returned', reason = ? WHERE document_id = ? AND state IN ('made', 'accepted')",
                [mb_substr(trim($reason), 0, 255), $documentId],
            );

            return $this->reverseDocument->event(
                $actor,
                $documentId,
                $day,
                HowTakenBack::Returned,
                trim($reason),
                true,
            );
        });
    }

    /** @return array{sent_by_id: int|string|null, made_by_id: int|string|null}|null null while the bank does not have it */
    private function atTheBank(int $documentId): ?array
    {
        $row = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT f.sent_by_id, r.created_by_id AS made_by_id
            FROM bank_file_line l
            JOIN bank_file f ON f.id = l.bank_file_id AND f.sent_at IS NOT NULL
            LEFT JOIN proposal r ON r.id = f.proposal_id
            WHERE l.document_id = ? AND l.state IN ('made', 'accepted')
            UNION ALL
            SELECT NULL, r.created_by_id
            FROM bank_check k
            LEFT JOIN proposal r ON r.id = k.proposal_id
            WHERE k.document_id = ? AND k.state = 'cleared'
            LIMIT 1
            SQL
            ,
            [$documentId, $documentId],
        );

        /** @var array{sent_by_id: int|string|null, made_by_id: int|string|null}|false $row */
        return false === $row ? null : $row;
    }
}
