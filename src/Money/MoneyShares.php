<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Parties\Nobody;
use Nelbix\App\Parties\PartyAccounts;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/**
 * Shares money out over the parties whose items it is placed on: its payer's first, with what is left over, then the others'. A rest that
 * is a prepayment is an item of its own. Source: rules.md, Settlements, What spans more.
 */
final readonly class MoneyShares
{
    public function __construct(private Connection $db, private PartyAccounts $accounts, private Nobody $nobody)
    {
    }

    /**
     * The party of each item that some money is placed on.
     *
     * @param list<MoneyInput> $inputs
     *
     * @return array<int, int> by item
     */
    public function parties(Actor $actor, array $inputs): array
    {
        $items = array_merge(
            ...array_map(static fn (MoneyInput $i): array => array_column($i->placements, 'item'), $inputs),
        );
        $found = [];
        foreach (array_chunk(array_values(array_unique($items)), 1000) as $chunk) {
            $found += $this->db->fetchAllKeyValue(
                'SELECT id, party_id FROM open_item WHERE company_id = ? AND id IN (?)',
                [$actor->companyId, $chunk],
                [1 => ArrayParameterType::INTEGER],
            );
        }

        return array_map('intval', $found);
    }

    /**
     * @param array<int, int> $parties by item
     *
     * @return non-empty-list<MoneyShare>
     *
     * @throws Refused when the credits of one party are more than what they are placed on, or money of a vendor goes to another one
     */
    public function of(Actor $actor, MoneyInput $input, array $parties): array
    {
        $placed = [$input->partyId => []];
        foreach ($input->placements as $p) {
            $placed[$this->party($input, $parties, $p->item)][] = $p;
        }
        $adjusted = [];
        foreach ($input->adjustments as $a) {
            $adjusted[$this->party($input, $parties, $a->item)][] = $a;
        }
        if (DocumentKind::Prepayment === $input->kind || $input->restIsPrepayment) {
            $this->nobody->mustNotBe($input->partyId, 'kind');
        }
        $shares = [];
        $rest = $input->amount - $input->used();
        foreach ($placed as $party => $placements) {
            $adjustments = $adjusted[$party] ?? [];
            $used =
                -$input->sign() *
                (array_sum(array_column($placements, 'applied')) + array_sum(array_column($adjustments, 'amount')));
            if ($used < 0) {
                throw Refused::because(
                    'amount',
                    \sprintf(
                        'The credits used are %s %s more than what they are placed on of the same %s; use less of them.',
                        Money::of(-$used, $input->currency)->decimal(),
                        $input->currency,
                        $input->side->partyWord(),
                    ),
                );
            }
            $more = $party === $input->partyId && !$input->restIsPrepayment ? $rest : 0;
            $given = $more > 0 && (null !== $input->restTo || [] !== $input->recovers);
            $shares[] = new MoneyShare(
                $party,
                $this->account($actor, $input, $party, $input->kind),
                $input->kind,
                $used + $more,
                $given ? $used + $more : $used,
                $placements,
                $given ? [...$adjustments, ...self::ofRest($input, $more)] : $adjustments,
            );
        }
        if ($input->restIsPrepayment && $rest > 0) {
            $shares[] = new MoneyShare(
                $input->partyId,
                $this->account($actor, $input, $input->partyId, DocumentKind::Prepayment),
                DocumentKind::Prepayment,
                $rest,
            );
        }

        /** @var non-empty-list<MoneyShare> */
        return array_values(array_filter($shares, static fn (MoneyShare $s): bool => $s->amount > 0 || $s->settles()));
    }

    /**
     * @return list<AdjustmentRequest>
     *
     * @throws Refused when the debts do not come to what is left over
     */
    private static function ofRest(MoneyInput $input, int $rest): array
    {
        $to = $input->restTo;
        if (null !== $to) {
            return [new AdjustmentRequest(0, $to->kind, -$input->sign() * $rest, $to->account, $to->reason)];
        }
        $recovered = array_sum(array_column($input->recovers, 'amount'));
        if ($recovered !== $rest) {
            throw Refused::because(
                'kind',
                \sprintf(
                    'Of debts written off %s %s is not recovered, and %s is left over; place the rest, or leave it unapplied.',
                    Money::of($recovered, $input->currency)->decimal(),
                    $input->currency,
                    Money::of($rest, $input->currency)->decimal(),
                ),
            );
        }

        return $input->recovers;
    }

    /** @param array<int, int> $parties */
    private function party(MoneyInput $input, array $parties, int $item): int
    {
        $party = $parties[$item] ?? $input->partyId;
        // what stands on an account that was named, a refund on its way, is the payer's whoever's credit it was
        if (null !== $input->control || $party === $input->partyId) {
            return $input->partyId;
        }
        if (Side::Receivables !== $input->side || DocumentKind::Receipt !== $input->kind) {
            throw Refused::because(
                'items',
                \sprintf(
                    'An item of another %s is placed; only a receipt is placed for several. Settle it apart.',
                    $input->side->partyWord(),
                ),
            );
        }

        return $party;
    }

    private function account(Actor $actor, MoneyInput $input, int $party, DocumentKind $kind): int
    {
        return $input->control ??
            (DocumentKind::Prepayment === $kind
                ? $this->accounts->prepayments($actor->companyId, $input->side, $party)
                : $this->accounts->control($actor->companyId, $input->side, $party));
    }
}
