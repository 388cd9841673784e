<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Refused;

/** Posts an invoice together with the money that came with it. Kept behind an interface because documents do not know settlements. */
interface PostWithMoney
{
    /**
     * Without money it is an invoice like any other.
     *
     * @param int|null $version of the draft on the page that it is posted from
     *
     * @return int the invoice's id
     *
     * @throws Refused
     */
    public function post(
        Actor $actor,
        InvoiceInput $input,
        ?FormKey $form = null,
        ?int $draftId = null,
        ?int $version = null,
    ): int;

    /**
     * The entries of the money and of its settlement, as posting writes them, for the panel beside the form.
     *
     * @return array<string, ?JournalDraft> by what they are, in words; empty without money
     */
    public function preview(Actor $actor, InvoiceInput $input, InvoicePlan $plan): array;
}
