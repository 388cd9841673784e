<?php

declare(strict_types=1);

namespace Nelbix\Core\Proposal;

use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Tax\Withholding;

/** An open item of payables (or a refund payable) that a proposal looks at. */
final readonly class Candidate
{
    /**
     * @param string|null $reservedBy number of the open proposal that holds it
     * @param Withholding|null $withholding what is withheld from the payee, when anything is
     */
    public function __construct(
        public OpenItem $item,
        public Payee $payee,
        public bool $held = false,
        public bool $awaitingApproval = false,
        public bool $isPrepayment = false,
        public ?string $reservedBy = null,
        public ?Withholding $withholding = null,
    ) {
    }
}
