<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\HandChecks;
use Nelbix\App\Money\PostMoney;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Words;
use Nelbix\App\Work\Job;
use Nelbix\App\Work\LongWork;
use Nelbix\App\Work\Progress;
use Nelbix\App\Work\Slice;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\Autowire;

/**
 * Posts a run that was started, so many payments at a time: each payment with its settlement, its check and its number once or not at
 * all.
 *
 * @phpstan-type Row array{payment: int, id: int, open: int, number: string, currency: string, kind: string, account_id: int,
 *     proposed: int, applied: int, discount: int, withholding: int, pay: int}
 */
final readonly class PostRun implements LongWork
{
    /** @param int<1, max> $sliceSize payments in a slice */
    public function __construct(
        private EntityManagerInterface $entities,
        private Connection $db,
        private ProposalDesk $desk,
        private RunCheck $check,
        private PostMoney $postMoney,
        private HandChecks $handChecks,
        private History $history,
        #[Autowire('%nelbix.run_slice%')] private int $sliceSize,
    ) {
    }

    public function kind(): string
    {
        return 'run';
    }

    public function seenWith(): Permission
    {
        return Permission::SeePayables;
    }

    public function route(): string
    {
        return 'proposal';
    }

    public function onlyLooks(Job $job): bool
    {
        return false;
    }

    public function slice(Actor $actor, Job $job, Progress $progress): Slice
    {
        $subjectId = $job->subjectId;
        $next = $this->desk->toPost($subjectId);
        $more = \count($next) > $this->sliceSize;
        $next = \array_slice($next, 0, $this->sliceSize);
        $lines = [] === $next ? [] : $this->lines($actor, $subjectId, $next);
        $proposal = $this->desk->lock($actor, $subjectId, [ProposalState::Posting]);
        if ([] !== $next) {
            $this->check->mayGoOn($proposal, $next);
            $this->post($actor, $proposal, $next, $lines);
        }
        if (!$more) {
            $proposal->state = ProposalState::Posted;
            $this->entities->flush();
            $this->db->executeStatement(
                'UPDATE open_item SET reserved_by_id = NULL, reserved_as = NULL WHERE reserved_by_id = ?',
                [$proposal->id],
            );
            $this->history->note(
                $actor,
                'proposal',
                $proposal->id(),
                'posted',
                Words::count(
                    (int) $this->db->fetchOne(
                        'SELECT COUNT(*) FROM proposal_payment WHERE proposal_id = ? AND document_id IS NOT NULL',
                        [$proposal->id],
                    ),
                    'payment',
                ),
            );
        }

        return new Slice(\count($next), $more);
    }

    /**
     * @param non-empty-list<int> $numbers of the payments
     * @param array<int, non-empty-list<Row>> $lines by payment
     */
    private function post(Actor $actor, Proposal $proposal, array $numbers, array $lines): void
    {
        $payments = $this->db->fetchAllAssociativeIndexed(
            <<<SQL
            SELECT y.payment, y.party_id, y.pay_by, y.reference, k.number AS check_number
            FROM proposal_payment y
            LEFT JOIN bank_check k ON k.proposal_id = y.proposal_id AND k.payment = y.payment AND k.state = 'printed'
            WHERE y.proposal_id = ? AND y.payment IN (?)
            FOR UPDATE
            SQL
            ,
            [$proposal->id, $numbers],
            [1 => ArrayParameterType::INTEGER],
        );
        $inputs = [];
        foreach ($numbers as $n) {
            if (!isset($payments[$n], $lines[$n])) {
                throw Refused::because('', 'A payment of the run is gone; load the page anew.');
            }
            $inputs[$n] = RunMoney::of($proposal, $payments[$n], $lines[$n], self::reference($payments[$n]));
        }
        $documents = array_combine($numbers, $this->postMoney->postAll($actor, array_values($inputs)));
        $this->remember($proposal, $documents);
        foreach ($documents as $n => $documentId) {
            if (PayBy::HandCheck->value === $payments[$n]['pay_by']) {
                $this->handChecks->issue(
                    $proposal->bankAccountId,
                    (string) $payments[$n]['reference'],
                    (int) $payments[$n]['party_id'],
                    $documentId,
                    $inputs[$n]->amount,
                    $proposal->payDate,
                );
            }
        }
    }

    /**
     * Writes the payments' documents to the run and its checks, which are issued by that.
     *
     * @param array<int, int> $documents by number of the payment
     */
    private function remember(Proposal $proposal, array $documents): void
    {
        $rows = implode(
            ' UNION ALL ',
            array_map(
                static fn (int $payment, int $id): string => \sprintf(
                    'SELECT %d AS payment, %d AS document_id',
                    $payment,
                    $id,
                ),
                array_keys($documents),
                $documents,
            ),
        );
        $this->db->executeStatement(
            'UPDATE proposal_payment y JOIN ('.
                $rows.
                ') m ON m.payment = y.payment SET y.document_id = m.document_id WHERE y.proposal_id = ?',
            [$proposal->id],
        );
        $this->db->executeStatement(
            <<<SQL
            UPDATE bank_check k
            JOIN ($rows) m ON m.payment = k.payment
            SET k.document_id = m.document_id, k.state = 'issued'
            WHERE k.proposal_id = ? AND k.state = 'printed'
            SQL
            ,
            [$proposal->id],
        );
    }

    /**
     * Reads the lines of these payments, and locks their items in order of id.
     *
     * @param non-empty-list<int> $numbers
     *
     * @return array<int, non-empty-list<Row>> by payment
     */
    private function lines(Actor $actor, int $proposalId, array $numbers): array
    {
        $lines = [];
        foreach (
            $this->db->iterateAssociative(
                <<<'SQL'
                SELECT l.payment, i.id, i.open, i.number, i.currency, i.kind, i.account_id, l.open AS proposed, l.applied,
                    l.discount, l.withholding, l.pay
                FROM open_item i
                JOIN proposal_line l ON l.item_id = i.id
                WHERE l.proposal_id = ? AND l.is_in = 1 AND l.dropped = 0 AND l.payment IN (?) AND i.company_id = ?
                ORDER BY i.id
                FOR UPDATE
                SQL
                ,
                [$proposalId, $numbers, $actor->companyId],
                [1 => ArrayParameterType::INTEGER],
            ) as $r
        ) {
            /** @var Row $row */
            $row =
                [
                    'kind' => (string) $r['kind'],
                    'number' => (string) $r['number'],
                    'currency' => (string) $r['currency'],
                ] + array_map('intval', $r);
            $lines[$row['payment']][] = $row;
        }

        return $lines;
    }

    /**
     * @param array<string, mixed> $payment
     *
     * @throws Refused
     */
    private static function reference(array $payment): string
    {
        return match (PayBy::from((string) $payment['pay_by'])) {
            PayBy::Check => 'check '.
                ($payment['check_number'] ??
                    throw Refused::because('', 'A check of the run is gone from its register; load the page anew.')),
            PayBy::HandCheck => 'check '.$payment['reference'],
            default => (string) $payment['reference'],
        };
    }
}
