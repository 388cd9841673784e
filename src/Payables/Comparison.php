<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Nelbix\App\Platform\Actor;
use Nelbix\Core\Proposal\Criteria;
use Nelbix\Core\Proposal\Decision;
use Nelbix\Core\Proposal\Proposer;
use Nelbix\Core\Proposal\Reason;

/**
 * A proposal as the clerk left it beside what other criteria would make of the same open items.
 *
 * @phpstan-import-type Line from ProposalQuery
 *
 * @phpstan-type Row array{item_id: int, document_id: int, number: string, their_number: string, name: string, code: string,
 *     due_date: string, currency: string, open: int, here: ?int, here_why: string, there: ?int, there_why: string, can: string}
 * @phpstan-type Totals array{payments: int, gross: int, credits: int, discount: int, withholding: int, pay: int, lost: int}
 */
final readonly class Comparison
{
    public function __construct(private ProposalQuery $query, private CandidateQuery $candidates)
    {
    }

    /**
     * @return array{here: Totals, there: Totals, rows: list<Row>, same: int} the rows that the two treat differently,
     *                                                                        by vendor; "can" is what the clerk may do about one:
     *                                                                        take, drop or nothing
     */
    public function of(Actor $actor, int $proposalId, Criteria $criteria): array
    {
        /** @var array<int, array{?int, Reason}> what is paid, null for nothing, and why; by item */
        $there = [];
        $result = Proposer::propose(
            $criteria,
            $this->candidates->each($actor->companyId, [], $proposalId),
            static function (Decision $d) use (&$there): bool {
                $there[$d->candidate->item->id] = [null, $d->reason];

                return false;
            },
        );
        foreach ($result->in as $d) {
            $there[$d->candidate->item->id] = [$d->pay(), $d->reason];
        }
        $rows = [];
        $same = 0;
        foreach ($this->query->each($proposalId) as $line) {
            [$pay, $why] = $there[$line['item_id']] ?? [null, null];
            $here = $line['is_in'] && !$line['dropped'] ? $line['pay'] : null;
            if ($here === $pay) {
                $same += null === $here ? 0 : 1;
                continue;
            }
            $rows[] = self::row($line, $here, $pay, $why);
        }
        $mine = $this->query->totals($proposalId);

        return [
            'here' => [
                'payments' => \count(
                    array_filter($this->query->payments($proposalId), static fn (array $p): bool => $p['items'] > 0),
                ),
                ...array_intersect_key(
                    $mine,
                    array_flip(['gross', 'credits', 'discount', 'withholding', 'pay', 'lost']),
                ),
            ],
            'there' => ['payments' => \count($result->payments), ...$result->totals()],
            'rows' => $rows,
            'same' => $same,
        ];
    }

    /**
     * @param Line $line
     *
     * @return Row
     */
    private static function row(array $line, ?int $here, ?int $there, ?Reason $why): array
    {
        $may = \in_array($line['reason'], array_column(TakeIn::MAY, 'value'), true) && null === $line['reserved_by'];

        return [
            ...array_intersect_key(
                $line,
                array_flip([
                    'item_id',
                    'document_id',
                    'number',
                    'their_number',
                    'name',
                    'code',
                    'due_date',
                    'currency',
                    'open',
                ]),
            ),
            'here' => $here,
            'here_why' => $line['dropped'] ? 'dropped' : $line['why'],
            'there' => $there,
            'there_why' => null === $why ? 'settled by now' : $why->words(),
            'can' => match (true) {
                null === $here && $line['dropped'] => 'restore',
                null === $here => $may ? 'take' : '',
                null === $there => 'drop',
                default => '',
            },
        ];
    }
}
