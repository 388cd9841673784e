<?php

declare(strict_types=1);

namespace Nelbix\App\Close\TieOut;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Nelbix\Core\TieOut\AccountTie;
use Psr\Clock\ClockInterface;

/**
 * Signs control accounts off as of a day. What was seen is copied: balances, explanations and every item; later postings do not change the
 * copy. The general ledger must be locked through the day. Source: rules.md, Journal entries, Tie-out.
 */
final readonly class SignOffTieOut
{
    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private TieOutQuery $query,
        private SignOffs $signOffs,
        private BooksDay $booksDay,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /** What a page showed of an account, in short: what is signed is what was seen. */
    public static function digest(string $account, Day $day, AccountTie $tie): string
    {
        return hash('sha256', json_encode([$account, $day->iso(), $tie], \JSON_THROW_ON_ERROR));
    }

    /**
     * @param array<int|string, string> $seen digests of the page by account number; at least one
     * @param string $note why a difference is accepted; must be there when one is signed off
     *
     * @return list<int> the sign-offs
     *
     * @throws Refused
     */
    public function sign(Actor $actor, Day $day, array $seen, string $note): array
    {
        return $this->transaction->run(function () use ($actor, $day, $seen, $note): array {
            if ([] === $seen) {
                throw Refused::because('accounts', 'Pick the accounts that are signed off.', ProblemKind::Missing);
            }
            if ($day->isAfter($this->booksDay->of($actor->companyId))) {
                throw Refused::because('as_of', 'A day that is still to come cannot be signed off.');
            }
            $this->holdLocked($actor->companyId, $day);
            $last = $this->signOffs->last($actor->companyId, Day::of('2199-12-31'));
            $ids = [];
            foreach ($this->query->of($actor->companyId, $day) as $r) {
                $was = $seen[$r['account']] ?? null;
                unset($seen[$r['account']]);
                if (null === $was) {
                    continue;
                }
                if (isset($last[$r['id']]) && !$day->isAfter($last[$r['id']]->day)) {
                    throw Refused::because(
                        'as_of',
                        \sprintf(
                            '%s %s is signed off through %s already; only later days can be.',
                            $r['account'],
                            $r['name'],
                            $last[$r['id']]->day->long(),
                        ),
                        ProblemKind::Taken,
                    );
                }
                if ($was !== self::digest($r['account'], $day, $r['tie'])) {
                    throw Refused::because(
                        '',
                        \sprintf(
                            '%s %s has changed since you looked; look again and sign what stands there now.',
                            $r['account'],
                            $r['name'],
                        ),
                    );
                }
                if (0 !== $r['tie']->difference() && '' === trim($note)) {
                    throw Refused::because(
                        'note',
                        \sprintf(
                            '%s %s does not tie. Say why the difference is accepted; the sign-off keeps your words.',
                            $r['account'],
                            $r['name'],
                        ),
                        ProblemKind::Missing,
                    );
                }
                $ids[] = $this->freeze($actor, $day, $r, mb_substr(trim($note), 0, 255));
            }
            if ([] !== $seen) {
                throw Refused::because('accounts', 'There is no such control account.', ProblemKind::Unknown);
            }

            return $ids;
        });
    }

    /**
     * The days are locked, and stay so until this is through.
     *
     * @throws Refused
     */
    private function holdLocked(int $companyId, Day $day): void
    {
        $open = $this->db->fetchOne(
            'SELECT MIN(first_day) FROM period WHERE company_id = ? AND first_day <= ? AND ledger_locked = 0',
            [$companyId, $day->iso()],
        );
        $held = $this->db->executeStatement(
            <<<'SQL'
            UPDATE period SET version = version + 1
            WHERE company_id = ? AND first_day <= ? AND last_day >= ? AND ledger_locked = 1
            SQL
            ,
            [$companyId, $day->iso(), $day->iso()],
        );
        if (null !== $open || 0 === (int) $held) {
            throw Refused::because(
                'as_of',
                \sprintf(
                    'The general ledger must be locked through %s first%s; lock it on the close page.',
                    $day->long(),
                    \is_string($open) ? ', and is open from '.Day::of($open)->long() : '',
                ),
            );
        }
    }

    /** @param array{id: int, account: string, name: string, role: AccountRole, tie: AccountTie} $r */
    private function freeze(Actor $actor, Day $day, array $r, string $note): int
    {
        $tie = $r['tie'];
        $sign = $r['role']->normalSign();
        $this->db->insert('sign_off', [
            'company_id' => $actor->companyId,
            'account_id' => $r['id'],
            'as_of' => $day->iso(),
            'normal_sign' => $sign,
            'ledger' => $tie->ledger,
            'items' => $tie->items,
            'item_count' => 0,
            'explained_by' => json_encode($tie->explainedBy, \JSON_THROW_ON_ERROR),
            'digest' => '',
            'note' => 0 === $tie->difference() ? '' : $note,
            'last_entry_id' => (int) $this->db->fetchOne(
                'SELECT COALESCE(MAX(id), 0) FROM journal_entry WHERE company_id = ?',
                [$actor->companyId],
            ),
            'signed_by_id' => $actor->userId,
            'signed_at' => $this->clock->now()->format('Y-m-d H:i:s'),
        ]);
        $id = (int) $this->db->lastInsertId();
        $rows = ControlItems::rows($r['id']);
        $count = $this->db->executeStatement(
            <<<SQL
            INSERT INTO sign_off_item (sign_off_id, number, their_number, kind, party, party_name, due_date, currency, open, base)
            SELECT :id, r.number, r.their_number, r.kind, r.party, r.party_name, r.due_date, r.currency, r.open, :sign * r.base
            FROM ($rows) r
            ORDER BY r.party, r.due_date, r.number
            SQL
            ,
            ['id' => $id, 'sign' => $sign, 'company' => $actor->companyId, 'day' => $day->iso()],
        );
        $sum = (int) $this->db->fetchOne('SELECT SUM(base) FROM sign_off_item WHERE sign_off_id = ?', [$id]);
        if ($sum !== $tie->items) {
            throw new \LogicException(
                \sprintf('The items of %s add up to %d and not to %d.', $r['account'], $sum, $tie->items),
            );
        }
        $this->db->update('sign_off', ['item_count' => (int) $count, 'digest' => $this->sum($id)], ['id' => $id]);
        $this->history->note($actor, 'account', $r['id'], 'tie-out signed off', 'as of '.$day->iso());

        return $id;
    }

    /** SHA-256 over the copy: whoever changes a frozen figure behind Nelbix's back is found by nelbix:verify. */
    public function sum(int $id): string
    {
        $hash = hash_init('sha256');
        foreach (
            [
                'SELECT account_id, as_of, ledger, items, note, explained_by, signed_by_id, signed_at FROM sign_off WHERE id = ?',
                <<<'SQL'
                SELECT number, their_number, kind, party, party_name, due_date, currency, open, base
                FROM sign_off_item
                WHERE sign_off_id = ?
                ORDER BY id
                SQL,
            ] as $sql
        ) {
            foreach ($this->db->iterateNumeric($sql, [$id]) as $row) {
                hash_update(
                    $hash,
                    json_encode(array_map(static fn (mixed $v): string => (string) $v, $row), \JSON_THROW_ON_ERROR),
                );
            }
        }

        return hash_final($hash);
    }
}
