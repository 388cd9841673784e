<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Aging;

use Nelbix\Core\Aging\AgingSum;
use Nelbix\Core\Aging\Bucketing;
use Nelbix\Core\Aging\Credits;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** What an aging is asked for. */
final readonly class AgingCriteria
{
    /** The dates that it can go by, and their columns. */
    public const BY = ['due' => 'due_date', 'document' => 'document_date', 'posting' => 'posting_date'];

    public const MOST_DAYS = 3650;

    /**
     * @param string $by a key of BY
     * @param bool $inDocumentCurrency amounts as the documents have them, currency by currency, instead of base amounts
     * @param int $atLeast only what is owed and at least so many days over by that date; 0 for everything
     */
    public function __construct(
        public int $companyId,
        public Side $side,
        public Day $asOf,
        public Bucketing $bucketing,
        public string $by = 'due',
        public AgingBy $rows = AgingBy::Party,
        public bool $inDocumentCurrency = false,
        public Credits $credits = Credits::Own,
        public int $atLeast = 0,
        public ?int $partyId = null,
    ) {
    }

    public function column(): string
    {
        return 'i.'.self::BY[$this->by];
    }

    /** "_base", or nothing for the amounts of the documents. */
    public function field(): string
    {
        return $this->inDocumentCurrency ? '' : '_base';
    }

    /** @return array{string, array<string, string|int>} SQL over item i that begins with AND or is empty, and its values */
    public function where(): array
    {
        $sql = '';
        $with = ['company' => $this->companyId, 'side' => $this->side->value, 'day' => $this->asOf->iso()];
        if (null !== $this->partyId) {
            $sql .= ' AND i.party_id = :party';
            $with['party'] = $this->partyId;
        }
        if ($this->atLeast > 0) {
            $sql .= ' AND '.$this->column().' <= :over AND '.self::isOf([AgingSum::ITEM], $this->side);
            $with['over'] = $this->asOf->plusDays(-$this->atLeast)->iso();
        }

        return [$sql, $with];
    }

    /**
     * SQL: whether item i is of one of the classes.
     *
     * @param list<string> $classes of AgingSum
     */
    public static function isOf(array $classes, Side $side): string
    {
        $kinds = array_merge(...array_map(static fn (string $c): array => AgingSum::kindsOf($c, $side), $classes));

        return [] === $kinds ? '1 = 0' : "i.kind IN ('".implode("', '", $kinds)."')";
    }
}
