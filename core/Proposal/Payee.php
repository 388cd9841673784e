<?php

declare(strict_types=1);

namespace Nelbix\Core\Proposal;

/** What a proposal knows of a vendor. */
final readonly class Payee
{
    public function __construct(
        public int $id,
        public string $code,
        public string $method = 'check',
        public IfPaidLate $ifPaidLate = IfPaidLate::CanWait,
        public bool $stopped = false,
        public bool $bankDetailsReady = true,
        public bool $separatePayments = false,
        public string $group = '',
    ) {
    }
}
