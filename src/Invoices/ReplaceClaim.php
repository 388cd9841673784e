<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\DocumentState;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Goods\ReturnedGoods;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;

/** A vendor's credit note that names our claim takes its place: the claim is reversed, what it said is owed less is the credit note's. */
final readonly class ReplaceClaim
{
    public function __construct(
        private EntityManagerInterface $entities,
        private ReverseDocument $reverse,
        private ReturnedGoods $returned,
    ) {
    }

    /** @return Document|null the claim whose place a credit note takes, or took */
    public function claimOf(Side $side, DocumentKind $kind, ?int $againstId): ?Document
    {
        $claim =
            Side::Payables === $side && DocumentKind::CreditNote === $kind && null !== $againstId
                ? $this->entities->find(Document::class, $againstId)
                : null;

        return Side::Payables === $claim?->side && DocumentKind::DebitNote === $claim->kind ? $claim : null;
    }

    /**
     * @param int $creditId the credit note, posted
     *
     * @return bool false when the credit note names no claim
     *
     * @throws Refused when the claim is settled, with what to undo first
     */
    public function replace(Actor $actor, InvoiceInput $input, int $creditId): bool
    {
        $claim = $this->claimOf($input->side, $input->kind, $input->againstId);
        if (null === $claim || DocumentState::Posted !== $claim->state) {
            return false;
        }
        $this->returned->pass($claim->id(), $creditId);
        $this->reverse->reverse($actor, $claim->id(), '', true);

        return true;
    }
}
