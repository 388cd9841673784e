<?php

declare(strict_types=1);

namespace Nelbix\Core\Placement;

use Nelbix\Core\Calendar\Day;

/** A line of a bank statement that looks for its place. */
final readonly class BankLine
{
    /**
     * @param int $amount what has no place yet, minor units of the account's currency; what came in is above zero
     * @param string $text what the other side wrote, and what the bank wrote
     * @param string $reference end-to-end or structured reference (ISO 11649)
     * @param string $party name of the other side
     * @param string $account IBAN or number of the other side
     * @param string $check number of a check; empty for anything else
     * @param string $named the document's number out of a structured reference
     * @param bool $reversal the bank takes a line of before back
     */
    public function __construct(
        public int $id,
        public Day $day,
        public int $amount,
        public string $text = '',
        public string $reference = '',
        public string $party = '',
        public string $account = '',
        public string $check = '',
        public bool $reversal = false,
        public string $named = '',
    ) {
    }

    /** Everything that is written on it, for whoever looks for words. */
    public function words(): string
    {
        return trim($this->text.' '.$this->reference.' '.$this->party.' '.$this->named);
    }

    /** An account without what people put between its characters. */
    public static function plain(string $account): string
    {
        return strtoupper((string) preg_replace('/[^A-Za-z0-9]/', '', $account));
    }
}
