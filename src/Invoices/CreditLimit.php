<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\Connection;
use Nelbix\App\Parties\ReleaseCredit;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Problem;

/** How much a customer may owe: over it an invoice is warned of, or refused where the company says so, until somebody else releases it. */
final readonly class CreditLimit
{
    public function __construct(
        private Connection $db,
        private ReleaseCredit $released,
        private Settings $settings,
        private BooksDay $booksDay,
    ) {
    }

    public function blocks(int $companyId): bool
    {
        return 'blocks' === $this->settings->of($companyId)->values['credit_limit'];
    }

    /**
     * How far a customer would be over what it may owe, base minor units; null while it is within, or has no limit. What others of its
     * kind are posted with it counts.
     *
     * @param bool $hold nobody else invoices the customer before this is through
     */
    public function over(Actor $actor, int $partyId, int $base, int $along = 0, bool $hold = false): ?int
    {
        if ($base <= 0) {
            return null;
        }
        $limit = $this->db->fetchOne(
            "SELECT credit_limit FROM party WHERE id = ? AND side = 'receivables'".($hold ? ' FOR UPDATE' : ''),
            [$partyId],
        );
        if (false === $limit || null === $limit) {
            return null;
        }
        $open = (int) $this->db->fetchOne(
            'SELECT COALESCE(SUM(open_base), 0) FROM open_item '.
                "WHERE company_id = ? AND side = 'receivables' AND party_id = ? AND open <> 0",
            [$actor->companyId, $partyId],
        );
        $release = $this->released->holds($partyId, $this->booksDay->of($actor->companyId));
        $over = $open + $along + $base - (int) $limit - ($release['amount'] ?? 0);

        return $over > 0 ? $over : null;
    }

    /** Whether credit is given by it: charges and fees come of what is owed already, and are owed however much that is. */
    public static function concerns(InvoiceInput $input): bool
    {
        return Side::Receivables === $input->side
            && DocumentKind::FinanceCharge !== $input->kind
            && !$input->followsFromDebt
            && $input->kind->itemSign($input->side) > 0;
    }

    /** What refuses an invoice; null when nothing does. */
    public function problem(Actor $actor, InvoiceInput $input, InvoicePlan $plan, PostedAlong $along): ?Problem
    {
        if (null === $input->partyId || !self::concerns($input) || !$this->blocks($actor->companyId)) {
            return null;
        }
        $over = $this->over(
            $actor,
            $input->partyId,
            $plan->worth,
            $along->owed($input->partyId),
            $this->db->isTransactionActive(),
        );
        $along->owes($input->partyId, $plan->worth);

        return null === $over
            ? null
            : new Problem(
                'party',
                \sprintf(
                    'Over the credit limit by %s %s with this. Somebody who approves releases it on the customer’s page; or invoice less.',
                    Money::of($over, $actor->baseCurrency)->decimal(),
                    $actor->baseCurrency,
                ),
            );
    }
}
