<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

/** So many of something wait, worth so much, and where one goes on with them. */
final readonly class WaitingLine
{
    /** The headings of Today, in their order. */
    public const YOURS = 'Yours';
    public const PAYABLES = 'Payables';
    public const RECEIVABLES = 'Receivables';
    public const GOODS = 'Goods';
    public const BOOKS = 'Books';
    public const HEADINGS = [self::YOURS, self::PAYABLES, self::RECEIVABLES, self::GOODS, self::BOOKS];

    /**
     * @param string $heading one of HEADINGS
     * @param int $place under its heading, the lowest first
     * @param string $key the name of the line, the same from day to day
     * @param string $text what waits, after its count: "vendor items are overdue"
     * @param int $amount minor units of the base currency
     * @param array<string, string> $parameters of the route, besides the company
     * @param string $do what one does there: "Review"
     */
    public function __construct(
        public string $heading,
        public int $place,
        public string $key,
        public string $text,
        public int $count,
        public int $amount,
        public string $route,
        public array $parameters,
        public string $do,
    ) {
    }
}
