<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Statement;

use Nelbix\Core\Calendar\Day;

/** A line of a bank statement as the bank wrote it. */
final readonly class StatementLine
{
    /**
     * @param Day $day on which the bank booked it
     * @param Day|null $value from which it bears interest
     * @param int $amount minor units of the statement's currency; what comes in is above zero
     * @param string $text what the payer wrote, else what the bank wrote
     * @param string $reference end-to-end or structured reference (ISO 11649); empty when there is none
     * @param string $bankReference the bank's own
     * @param string $party name of the other side
     * @param string $account IBAN or number of the other side
     * @param string $check number of a check; empty for anything else
     * @param bool $reversal the bank takes a line of before back
     */
    public function __construct(
        public Day $day,
        public ?Day $value,
        public int $amount,
        public string $text,
        public string $reference = '',
        public string $bankReference = '',
        public string $party = '',
        public string $account = '',
        public string $check = '',
        public bool $reversal = false,
    ) {
    }
}
