<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Why;

use Doctrine\DBAL\Connection;
use Nelbix\App\Invoices\Why\Reasoned;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Proposal\Reason;

/** Why a proposal takes an item in or leaves it out, and what it pays of it. */
final readonly class WhyProposed
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<Reasoned> none when the proposal does not know the item */
    public function of(int $companyId, int $proposalId, int $itemId): array
    {
        $r = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT l.is_in, l.dropped, l.added, l.reason, l.open, l.discount, l.offered, l.stake, l.applied, l.withholding, l.pay,
                p.pay_date, p.due_through, p.again_on, i.due_date, i.currency, i.number, i.grace_days,
                (SELECT GROUP_CONCAT(CONCAT(x.through, ' ', x.amount) ORDER BY x.through SEPARATOR ';') FROM item_discount x
                    WHERE x.item_id = i.id) AS steps
            FROM proposal p
            JOIN proposal_line l ON l.proposal_id = p.id
            JOIN open_item i ON i.id = l.item_id
            WHERE p.company_id = ? AND p.id = ? AND l.item_id = ?
            ORDER BY l.id DESC
            LIMIT 1
            SQL
            ,
            [$companyId, $proposalId, $itemId],
        );
        if (false === $r) {
            return [];
        }
        $amount = static fn (mixed $minor): string => Typography::amount((int) $minor, (string) $r['currency']);
        $numbers = [
            'due '.Day::of((string) $r['due_date'])->long(),
            \sprintf(
                'paying on %s all that is due through %s; paying again on %s',
                Day::of((string) $r['pay_date'])->long(),
                Day::of((string) $r['due_through'])->long(),
                Day::of((string) $r['again_on'])->long(),
            ),
        ];
        foreach (array_filter(explode(';', (string) $r['steps'])) as $step) {
            [$through, $worth] = explode(' ', $step);
            $last = Day::of($through)->plusDays((int) $r['grace_days']);
            $numbers[] = \sprintf(
                'discount %s until %s: %s',
                $amount($worth),
                $last->long(),
                match (true) {
                    $last->isBefore(Day::of((string) $r['pay_date'])) => 'lapsed on the pay date',
                    $last->isBefore(Day::of((string) $r['again_on'])) => 'holds on the pay date, lapses before the next one',
                    default => 'holds on the next pay date too',
                },
            );
        }
        $decided = match (true) {
            (bool) $r['dropped'] => 'dropped by hand',
            (bool) $r['added'] => 'taken in by hand',
            (bool) $r['is_in'] => 'in',
            default => 'out',
        };
        $reasons = [
            new Reasoned('Item '.$r['number'], $decided, Reason::from((string) $r['reason'])->words(), $numbers),
        ];
        if ((bool) $r['is_in']) {
            $reasons[] = new Reasoned(
                'Pays',
                $amount($r['pay']),
                'what is settled, less the discount that holds on the pay date and what is withheld',
                [
                    'open '.$amount($r['open']).', settled '.$amount($r['applied']),
                    'discount '.$amount($r['discount']).' of '.$amount($r['offered']).' offered',
                    ...0 !== (int) $r['withholding'] ? ['withheld '.$amount($r['withholding'])] : [],
                ],
            );
        }
        if (0 !== (int) $r['stake']) {
            $reasons[] = new Reasoned(
                'At stake',
                $amount($r['stake']),
                'the discount that would be lost by waiting for the next pay date',
                [],
            );
        }

        return $reasons;
    }
}
