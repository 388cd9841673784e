<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Reconcile;

use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Signs a bank account off as of a day: what was seen is frozen, and stays so whatever is posted later; or takes that back. */
final readonly class SignOff
{
    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private BankAccounts $banks,
        private ReconcileQuery $query,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param string $seen digest of the page that was looked at
     * @param bool $named what is left over and named on the page is accepted as it is
     *
     * @throws Refused
     */
    public function sign(Actor $actor, int $bankId, Day $day, string $seen, bool $named): int
    {
        return $this->transaction->run(function () use ($actor, $bankId, $day, $seen, $named): int {
            $bank = $this->banks->find($actor->companyId, $bankId);
            if (null === $bank) {
                throw Refused::because('', 'There is no such bank account in this company.', ProblemKind::Unknown);
            }
            // two who sign the same day wait for each other
            $this->db->fetchOne('SELECT id FROM bank_account WHERE id = ? FOR UPDATE', [$bankId]);
            $is =
                $this->query->of($bank, $day) ??
                throw Refused::because('', 'There is no statement of this account yet.');
            if ($is->day->isAfter($is->reach)) {
                throw Refused::because(
                    'as_of',
                    \sprintf(
                        'The statements reach through %s; sign off that day, or take the next statement in.',
                        $is->reach->long(),
                    ),
                );
            }
            if ($is->digest() !== $seen) {
                throw Refused::because(
                    '',
                    'Something was posted or placed since you looked; look again and sign what stands there now.',
                );
            }
            if ($is->counted() !== $is->ledger) {
                throw new \LogicException('A reconciliation does not add up.');
            }
            if ($is->named() > 0 && !$named) {
                throw Refused::because(
                    'named',
                    'Something is left over that no payment and no deposit explains; say that it is accepted as it is named here.',
                    ProblemKind::Asks,
                );
            }
            $standing = $this->db->fetchOne(
                'SELECT 1 FROM reconciliation WHERE bank_account_id = ? AND as_of = ? AND withdrawn_at IS NULL',
                [$bankId, $day->iso()],
            );
            if (false !== $standing) {
                throw Refused::because('as_of', \sprintf('%s is signed off already as of that day.', $bank->name));
            }
            $this->db->insert('reconciliation', [
                'company_id' => $actor->companyId,
                'bank_account_id' => $bankId,
                'as_of' => $day->iso(),
                'bank_balance' => $is->bank,
                'ledger_balance' => $is->ledger,
                'frozen' => json_encode($is->frozen(), \JSON_THROW_ON_ERROR),
                'signed_by_id' => $actor->userId,
                'signed_at' => $this->clock->now()->format('Y-m-d H:i:s'),
                'withdrawn_why' => '',
            ]);
            $id = (int) $this->db->lastInsertId();
            $this->history->note($actor, 'bank_account', $bankId, 'reconciled', 'as of '.$day->iso());

            return $id;
        });
    }

    /** @throws Refused without a reason, or twice */
    public function withdraw(Actor $actor, int $bankId, int $id, string $why): void
    {
        $this->transaction->run(function () use ($actor, $bankId, $id, $why): void {
            if ('' === trim($why)) {
                throw Refused::because(
                    'why',
                    'Say why the sign-off is taken back; the history keeps your words.',
                    ProblemKind::Missing,
                );
            }
            $done = $this->db->executeStatement(
                <<<'SQL'
                UPDATE reconciliation
                SET withdrawn_by_id = ?, withdrawn_at = ?, withdrawn_why = ?
                WHERE id = ? AND bank_account_id = ? AND company_id = ? AND withdrawn_at IS NULL
                SQL
                ,
                [
                    $actor->userId,
                    $this->clock->now()->format('Y-m-d H:i:s'),
                    mb_substr(trim($why), 0, 255),
                    $id,
                    $bankId,
                    $actor->companyId,
                ],
            );
            if (0 === (int) $done) {
                throw Refused::because(
                    '',
                    'There is no such sign-off, or it was taken back already.',
                    ProblemKind::Unknown,
                );
            }
            $this->history->note($actor, 'bank_account', $bankId, 'sign-off taken back', mb_substr(trim($why), 0, 255));
        });
    }
}
