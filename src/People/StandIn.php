<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Says who stands in for somebody, from one day through another: they have the other's roles besides their own for that time. */
final readonly class StandIn
{
    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private People $people,
        private BooksDay $booksDay,
        private History $history,
    ) {
    }

    /**
     * @param array<mixed> $raw deputy (their id), first, last (days as typed), reason
     *
     * @throws Refused with every problem
     */
    public function begin(Actor $actor, int $absentId, array $raw): string
    {
        return $this->transaction->run(function () use ($actor, $absentId, $raw): string {
            $text = (new Fields($raw))->text(...);
            $absent = $this->people->one($actor, $absentId);
            $problems = new ProblemList();
            $deputy = $problems->attempt(fn (): User => $this->people->one($actor, (int) $text('deputy')), 'deputy');
            if (null !== $deputy && ($deputy->id() === $absentId || $deputy->retired)) {
                $problems->add('deputy', 'Somebody else, who is not retired, stands in.');
            }
            $days = $this->booksDay->input($actor->companyId);
            $first = $problems->attempt(static fn (): Day => $days->read($text('first'), 'first'));
            $last = $problems->attempt(static fn (): Day => $days->read($text('last'), 'last', $first));
            if (null !== $first && null !== $last && $last->isBefore($first)) {
                $problems->add('last', 'The last day is not before the first.');
            }
            $reason = mb_substr($text('reason'), 0, 255);
            $apart = null === $deputy ? [] : Role::apart($this->together($actor, $absent, $deputy));
            if ([] !== $apart && '' === $reason) {
                $problems->add(
                    'reason',
                    \sprintf('Both together: %s. Say why one person does it.', implode('; ', $apart)),
                );
            }
            $problems->refuse();
            \assert(null !== $deputy && null !== $first && null !== $last);
            $this->db->insert('substitute', [
                'company_id' => $actor->companyId,
                'absent_id' => $absentId,
                'deputy_id' => $deputy->id(),
                'first_day' => $first->iso(),
                'last_day' => $last->iso(),
                'reason' => $reason,
            ]);
            $said = \sprintf(
                '%s stands in for %s from %s through %s',
                $deputy->name,
                $absent->name,
                $first->long(),
                $last->long(),
            );
            $this->history->note(
                $actor,
                'person',
                $absentId,
                'substitute',
                $said.('' === $reason ? '' : ': '.$reason),
            );

            return $said.'.';
        });
    }

    /** Ends it now. @throws Refused when there is none such */
    public function end(Actor $actor, int $id): string
    {
        return $this->transaction->run(function () use ($actor, $id): string {
            $row = $this->db->fetchAssociative(
                <<<'SQL'
                SELECT s.absent_id, a.name AS absent, d.name AS deputy
                FROM substitute s
                JOIN app_user a ON a.id = s.absent_id
                JOIN app_user d ON d.id = s.deputy_id
                WHERE s.id = ? AND s.company_id = ? AND s.ended = 0
                FOR UPDATE
                SQL
                ,
                [$id, $actor->companyId],
            );
            if (false === $row) {
                throw Refused::because('', 'There is no such substitute; load the page anew.');
            }
            $this->db->executeStatement('UPDATE substitute SET ended = 1 WHERE id = ?', [$id]);
            $said = \sprintf('%s no longer stands in for %s', $row['deputy'], $row['absent']);
            $this->history->note($actor, 'person', (int) $row['absent_id'], 'substitute ended', $said);

            return $said.'.';
        });
    }

    /** @return list<Role> what one person could do with the roles of both */
    private function together(Actor $actor, User $absent, User $deputy): array
    {
        $roles = [];
        foreach ([...$absent->memberships, ...$deputy->memberships] as $m) {
            if ($m->company->id() === $actor->companyId) {
                $roles[$m->role->value] = $m->role;
            }
        }

        return array_values($roles);
    }
}
