<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices\Why;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Books\Document;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Terms\DatedDiscount;
use Nelbix\Core\Terms\TermDates;

/** Why the figures of a posted document are what they are: worked out again of what is stored, and put beside it. */
final readonly class WhyDocument
{
    /** So many settlements of an item are named. */
    private const MOST = 20;

    public function __construct(
        private Connection $db,
        private CodeBook $codes,
        private Rates $rates,
        private BooksDay $booksDay,
    ) {
    }

    /** @return list<Reasoned> */
    public function of(Document $document, string $base): array
    {
        $items = $this->db->fetchAllAssociative('SELECT * FROM open_item WHERE document_id = ? ORDER BY part, id', [
            $document->id(),
        ]);
        $reasons = $document->kind->isInvoiced() ? $this->dates($document, $items) : [];
        foreach (
            $this->db->fetchAllAssociative(
                'SELECT tax_code_id, net, tax, recoverable FROM document_tax WHERE document_id = ? ORDER BY id',
                [$document->id()],
            ) as $t
        ) {
            $code = $this->codes->taxCodes($document->companyId)[(int) $t['tax_code_id']] ?? null;
            if (null !== $code) {
                $reasons[] = WhyInvoice::tax(
                    $code->rule(),
                    (int) $t['net'],
                    (int) $t['tax'],
                    (int) $t['recoverable'],
                    $document->currency,
                );
            }
        }
        if ($document->currency !== $base) {
            $reasons[] = $this->inBase($document, $base);
        }
        foreach (
            $this->db->fetchFirstColumn('SELECT said FROM match_finding WHERE document_id = ? ORDER BY id', [
                $document->id(),
            ]) as $said
        ) {
            $reasons[] = new Reasoned(
                'Variance',
                (string) $said,
                'more than ordered, received or agreed, and beyond the tolerance of the day',
                [],
            );
        }

        return [...$reasons, ...$this->open($items)];
    }

    /**
     * @param list<array<string, mixed>> $items
     *
     * @return list<Reasoned>
     */
    private function dates(Document $document, array $items): array
    {
        $owed = array_values(array_filter($items, static fn (array $i): bool => (int) $i['original'] > 0));
        if ([] === $owed || null === $document->documentDate || null === $document->postingDate) {
            return [];
        }
        $record =
            null === $document->termId ? null : $this->codes->terms($document->companyId)[$document->termId] ?? null;
        $dates = new TermDates(
            $document->documentDate,
            $document->postingDate,
            null,
            $document->startDate,
            $document->startDate,
        );
        $parts = array_map(
            static fn (array $i): array => ['due' => Day::of((string) $i['due_date']), 'amount' => (int) $i['original']],
            $owed,
        );
        $steps = $this->steps(array_map(static fn (array $i): int => (int) $i['id'], $owed));
        $rule = WhyInvoice::baseRule((int) $document->discountBase, (int) $document->total, (int) $document->net);
        $reasons = WhyInvoice::due($record?->term(), $record->code ?? '', $dates, $parts, $document->currency);
        foreach ($owed as $i) {
            $reasons = [
                ...$reasons,
                ...WhyInvoice::discounts(
                    $steps[(int) $i['id']] ?? [],
                    (int) $i['discount_base'],
                    (int) $i['original'],
                    $rule,
                    (int) $i['grace_days'],
                    $document->currency,
                ),
            ];
        }

        return $reasons;
    }

    /**
     * @param non-empty-list<int> $items
     *
     * @return array<int, list<DatedDiscount>> by item
     */
    private function steps(array $items): array
    {
        $steps = [];
        foreach (
            $this->db->fetchAllAssociative(
                'SELECT item_id, through, percent, amount FROM item_discount WHERE item_id IN ('.
                    implode(',', $items).
                    ') ORDER BY through',
            ) as $s
        ) {
            $steps[(int) $s['item_id']][] = new DatedDiscount(
                Day::of((string) $s['through']),
                BigDecimal::of((string) $s['percent']),
                (int) $s['amount'],
            );
        }

        return $steps;
    }

    private function inBase(Document $document, string $base): Reasoned
    {
        if ($document->kind->settlesItself()) {
            return $this->share($document, $base);
        }
        $rate = BigDecimal::of((string) $document->rate);
        $day = $document->postingDate ?? $this->booksDay->of($document->companyId);
        $table = $this->rates->find($document->companyId, $document->currency, $base, $day);
        $from =
            null !== $table && $table->isEqualTo($rate)
                ? $this->rates->dayOf($document->companyId, $document->currency, $base, $day)
                : null;

        return WhyInvoice::base(
            (int) $document->total,
            (int) $document->totalBase,
            $document->currency,
            $base,
            $rate,
            $from,
        );
    }

    /** A transfer has no rate of its own: it carries the share of what it was taken from, so that nothing is gained or lost by it. */
    private function share(Document $document, string $base): Reasoned
    {
        $from = $this->db->fetchOne('SELECT number FROM document WHERE id = ?', [$document->againstId]);

        return new Reasoned(
            'In '.$base,
            Typography::amount((int) $document->totalBase, $base),
            'what is open of its source in '.$base.', in the share of the amount; all of it when all is taken',
            [
                \sprintf(
                    '%s %s%s',
                    Typography::amount((int) $document->total, $document->currency),
                    $document->currency,
                    false === $from ? '' : ' of '.$from,
                ),
            ],
        );
    }

    /**
     * @param list<array<string, mixed>> $items
     *
     * @return list<Reasoned> what was taken of each
     */
    private function open(array $items): array
    {
        $reasons = [];
        foreach ($items as $i) {
            $currency = (string) $i['currency'];
            $numbers = ['original '.Typography::amount((int) $i['original'], $currency)];
            foreach (
                $this->db->fetchAllAssociative(
                    <<<'SQL'
                    SELECT l.applied, s.settled_on, (SELECT GROUP_CONCAT(DISTINCT o.number ORDER BY o.number SEPARATOR ', ')
                        FROM settlement_line m JOIN open_item o ON o.id = m.item_id
                        WHERE m.settlement_id = s.id AND m.item_id <> l.item_id) AS with_items
                    FROM settlement_line l
                    JOIN settlement s ON s.id = l.settlement_id
                    WHERE l.item_id = ? AND s.undone_on IS NULL
                    ORDER BY s.settled_on, s.id
                    LIMIT

                    SQL
                    .self::MOST,
                    [(int) $i['id']],
                ) as $s
            ) {
                $numbers[] = \sprintf(
                    '%s on %s%s',
                    Typography::amount(-(int) $s['applied'], $currency),
                    Day::of((string) $s['settled_on'])->long(),
                    null === $s['with_items'] ? '' : ', with '.mb_strimwidth((string) $s['with_items'], 0, 60, '…'),
                );
            }
            if (self::MOST + 1 === \count($numbers)) {
                $numbers[] = 'and more; the document lists them all';
            }
            $reasons[] = new Reasoned(
                'Open, '.$i['number'],
                Typography::amount((int) $i['open'], $currency),
                'what it was, less what stands settled of it',
                $numbers,
            );
        }

        return $reasons;
    }
}
