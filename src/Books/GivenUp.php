<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\People\SomebodyElse;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Money\Money;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;
use Nelbix\Core\Terms\EarlyDiscount;

/**
 * What somebody lets go of an item, whichever door it comes through: with a reason, to an account that may take it, up to the company's
 * limit by themselves and above it only by somebody else's word. Source: rules.md, Settlements, Short or over; Settings.
 */
final readonly class GivenUp
{
    public function __construct(
        private Settings $settings,
        private Chart $chart,
        private SomebodyElse $somebodyElse,
        private Connection $db,
        private Rates $rates,
    ) {
    }

    /** What one person may let go alone, base minor units. */
    public function limit(Actor $actor): int
    {
        return $this->settings->of($actor->companyId)->amount('write_off_approval_above', $actor->baseCurrency);
    }

    /**
     * What was let go before and stands, of these items and of whatever a transfer made of the same document: letting go of a little again
     * and again is letting go of much, and so is a little of each of its claims.
     *
     * @param list<int> $items
     *
     * @return int base minor units
     */
    public function before(array $items): int
    {
        if ([] === $items) {
            return 0;
        }
        $kinds = array_filter(AdjustmentKind::cases(), static fn (AdjustmentKind $k): bool => $k->isGivenUp());

        return (int) $this->db->fetchOne(
            <<<'SQL'
            WITH RECURSIVE up AS (
                SELECT d.id, d.kind, d.against_id
                FROM open_item i
                JOIN document d ON d.id = i.document_id
                WHERE i.id IN (:items)
                UNION
                SELECT d.id, d.kind, d.against_id
                FROM up
                JOIN document d ON d.id = up.against_id
                WHERE up.kind IN (:transfers)
            ), family AS (
                SELECT id FROM up
                UNION
                SELECT d.id
                FROM family f
                JOIN document d ON d.against_id = f.id AND d.kind IN (:transfers)
            )
            SELECT COALESCE(SUM(ABS(j.amount_base)), 0)
            FROM family f
            JOIN open_item i ON i.document_id = f.id
            JOIN settlement_adjustment j ON j.item_id = i.id AND j.kind IN (:kinds)
            JOIN settlement s ON s.id = j.settlement_id AND s.undone_on IS NULL
            SQL
            ,
            [
                'items' => $items,
                'transfers' => DocumentKind::settlingThemselves(),
                'kinds' => array_column($kinds, 'value'),
            ],
            [
                'items' => ArrayParameterType::INTEGER,
                'transfers' => ArrayParameterType::STRING,
                'kinds' => ArrayParameterType::STRING,
            ],
        );
    }

    /**
     * @param array<int, OpenItem> $items by id, as they stand before this settlement
     * @param array<int, EarlyDiscount> $discounts by item
     * @param BigDecimal $rate what an amount is worth in base currency
     *
     * @throws Refused naming the item
     */
    public function check(
        Actor $actor,
        SettlementRequest $request,
        array $items,
        array $discounts,
        BigDecimal $rate,
        Day $paid,
    ): void {
        $applied = array_column($request->placements, 'applied', 'item');
        $worth = 0;
        $given = [];
        foreach ($request->adjustments as $a) {
            $item = $items[$a->item] ?? null;
            if (!$a->kind->isGivenUp() || null === $item) {
                continue;
            }
            if ($a->kind->asksForReason() && '' === trim($a->reason)) {
                throw Refused::because(
                    'rest_reason.'.$item->id,
                    \sprintf('Say why what is left of %s goes to %s.', $item->number, $a->kind->word()),
                    ProblemKind::Missing,
                );
            }
            $this->mayTake($actor, $a);
            if (AdjustmentKind::LateDiscount === $a->kind) {
                $this->lapsed($item, $applied[$item->id] ?? 0, abs($a->amount), $discounts[$item->id] ?? null, $paid);
            }
            // no typed rate takes it below the limit
            $worth += $this->rates->worth(
                $actor->companyId,
                $item->currency,
                $actor->baseCurrency,
                $request->date,
                abs($a->amount),
                InvoiceEntry::base(abs($a->amount), $item->currency, $actor->baseCurrency, $rate),
            );
            $given[] = $item->id;
        }
        $limit = $this->limit($actor);
        if (0 === $worth || $worth + ($worth <= $limit ? $this->before($given) : 0) <= $limit) {
            return;
        }
        if (null === $request->askedBy || $request->askedBy === $actor->userId) {
            throw Refused::because(
                'write_off',
                \sprintf(
                    '%s %s, with what was let go before, is more than the %s that one person may let go alone; '.
                        'ask for it, and somebody else decides.',
                    Money::of($worth, $actor->baseCurrency)->decimal(),
                    $actor->baseCurrency,
                    Money::of($limit, $actor->baseCurrency)->decimal(),
                ),
            );
        }
        $this->somebodyElse->within($actor, $worth, 'What is written off');
    }

    /** The account that was named: no control or bank account, and a bad debt is called one. */
    private function mayTake(Actor $actor, AdjustmentRequest $a): void
    {
        if (null === $a->account) {
            return;
        }
        $account = $this->chart->account($actor->companyId, $a->account);
        $role = null === $account['role'] ? null : AccountRole::from($account['role']);
        if (true === $role?->isControl() || AccountRole::Bank === $role) {
            throw Refused::because(
                'rest_account.'.$a->item,
                \sprintf('%s %s takes no such rest; choose another account.', $account['number'], $account['name']),
            );
        }
        if (AccountRole::BadDebtsRecovered === $role) {
            throw Refused::because(
                'rest_account.'.$a->item,
                \sprintf(
                    '%s %s takes what comes for a debt; say on the receipt that it is for a debt written off before.',
                    $account['number'],
                    $account['name'],
                ),
            );
        }
        $isOfBadDebts = \in_array($role, [AccountRole::BadDebt, AccountRole::BadDebtAllowance], true);
        if ($isOfBadDebts !== (AdjustmentKind::BadDebt === $a->kind)) {
            throw Refused::because(
                'rest_account.'.$a->item,
                $isOfBadDebts
                    ? \sprintf('%s %s takes bad debts; say that it is one.', $account['number'], $account['name'])
                    : \sprintf(
                        '%s %s takes no bad debts; its expense or its allowance does.',
                        $account['number'],
                        $account['name'],
                    ),
            );
        }
    }

    private function lapsed(OpenItem $item, int $applied, int $amount, ?EarlyDiscount $discount, Day $paid): void
    {
        $most = $discount?->lapsed($item->open, $applied, $paid) ?? 0;
        if ($amount > $most) {
            throw Refused::because(
                'rest.'.$item->id,
                0 === $most
                    ? \sprintf('No discount of %s has lapsed; say what the rest is instead.', $item->number)
                    : \sprintf(
                        'The discount of %s that lapsed was %s; %s is more.',
                        $item->number,
                        Money::of($most, $item->currency)->decimal(),
                        Money::of($amount, $item->currency)->decimal(),
                    ),
            );
        }
    }
}
