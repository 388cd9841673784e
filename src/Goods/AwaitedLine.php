<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Matching\Accrued;

/** What a line of an invoice still waits for. */
final readonly class AwaitedLine
{
    private function __construct(
        public int $id,
        public int $documentId,
        public string $document,
        public int $enteredBy,
        public int $partyId,
        public string $currency,
        public int $position,
        public int $orderLine,
        public string $text,
        public int $account,
        public int $control,
        public int $variance,
        public Accrued $left,
        public Day $notBefore,
    ) {
    }

    /** @param array<string, mixed> $r a row of AwaitedLines */
    public static function of(array $r): self
    {
        $invoiced = Day::of((string) $r['invoiced_on']);

        return new self(
            (int) $r['id'],
            (int) $r['document_id'],
            (string) $r['number'],
            (int) $r['entered_by'],
            (int) $r['party_id'],
            (string) $r['currency'],
            (int) $r['line_position'],
            (int) $r['order_line_id'],
            (string) $r['text'],
            (int) $r['line_account'],
            (int) $r['account_id'],
            (int) $r['variance_account_id'],
            new Accrued(BigDecimal::of((string) $r['open_quantity']), (int) $r['open_amount'], (int) $r['open_base']),
            null === $r['last_undone_on'] ? $invoiced : Day::latest($invoiced, Day::of((string) $r['last_undone_on'])),
        );
    }
}
