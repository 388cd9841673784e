<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Problem;

/**
 * What a clerk, a file or the demo says of an invoice, credit note, debit note or finance charge, read and looked up.
 * What could not be read is null and named among the problems; only an input without problems is posted.
 */
final readonly class InvoiceInput
{
    /**
     * @param array<int, LineInput> $lines under the index of the form's row
     * @param array<string, int> $taxOverrides minor units by tax code
     * @param list<Problem> $problems
     * @param string|null $lookAlikeReason why it is not the one it looks like; null when nobody can be asked, as in a file
     * @param int|null $againstId the invoice that a credit note is for
     * @param int|null $moneyAmount what came with a customer invoice, minor units of its currency
     * @param bool|null $rateMeant a typed rate far off the table's is meant; null when nobody can be asked
     * @param bool|null $dayMeant a day far from the books' day is meant; null when nobody can be asked
     * @param list<int> $papers uploaded papers that belong to it
     */
    public function __construct(
        public Side $side,
        public DocumentKind $kind,
        public ?int $partyId,
        public string $number,
        public ?Day $documentDate,
        public ?Day $postingDate,
        public ?Day $dueDate,
        public ?Day $startDate,
        public ?int $termId,
        public string $currency,
        public ?BigDecimal $rate,
        public string $description,
        public array $lines,
        public array $taxOverrides,
        public ?int $statedTotal,
        public array $problems,
        public ?string $lookAlikeReason = null,
        public ?int $againstId = null,
        public array $papers = [],
        public ?int $moneyAmount = null,
        public string $moneyBank = '',
        public string $moneyReference = '',
        public string $salesperson = '',
        public ?string $commissionPercent = null,
        public ?bool $rateMeant = null,
        public ?bool $dayMeant = null,
        public string $theirOrder = '',
        public bool $followsFromDebt = false,
        /** The document that this puts right: what it took of deliveries is there for this one. */
        public ?int $insteadOf = null,
    ) {
    }

    /** The same as something that comes of what is owed already, such as the fee of a check that bounced: no credit is given by it. */
    public function followingFromDebt(): self
    {
        return new self(...['followsFromDebt' => true] + get_object_vars($this));
    }

    /** @return list<string> which of the fields that are worked out were typed: number, due_date, rate, tax.CODE */
    public function typed(): array
    {
        $typed = array_map(
            static fn (string $code): string => 'tax.'.$code,
            array_map(strval(...), array_keys($this->taxOverrides)),
        );
        foreach (
            ['number' => '' !== $this->number, 'due_date' => null !== $this->dueDate, 'rate' => null !== $this->rate] as $field => $is
        ) {
            if ($is) {
                $typed[] = $field;
            }
        }

        return $typed;
    }
}
