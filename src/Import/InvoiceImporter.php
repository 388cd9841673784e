<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Books\Lookup;
use Nelbix\App\Goods\FindGoods;
use Nelbix\App\Invoices\CheckInvoice;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\InvoiceToPost;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Vendor and customer invoices from files, posted at once. */
final readonly class InvoiceImporter implements PlanningImporter
{
    private const DOCUMENT = ['document_date', 'posting_date', 'due_date', 'terms', 'currency', 'rate', 'description'];

    /** What names the goods of a line. */
    private const GOODS = ['delivery_order', 'delivery_line', 'quantity', 'price'];

    public function __construct(
        private InvoiceReader $reader,
        private Lookup $lookup,
        private CheckInvoice $check,
        private PostInvoice $postInvoice,
        private FindGoods $findGoods,
    ) {
    }

    public function kinds(): array
    {
        return ['vendor-invoices', 'customer-invoices'];
    }

    public function required(string $kind): array
    {
        return ['party', 'number', 'document_date', 'account', 'amount'];
    }

    public function optional(string $kind): array
    {
        return [
            'kind',
            'posting_date',
            'due_date',
            'terms',
            'currency',
            'rate',
            'description',
            'tax_code',
            'cost_center',
            'department',
            'project',
            'line_kind',
            'look_alike_reason',
            ...'vendor-invoices' === $kind ? self::GOODS : [],
        ];
    }

    public function key(string $kind): array
    {
        return ['party', 'number', 'kind'];
    }

    public function together(string $kind): array
    {
        return ['party'];
    }

    public function begin(Actor $actor, string $kind): PlannedFile
    {
        $parties = [];
        $goods = new GoodsOfRows($actor->companyId, $this->findGoods);

        return new InvoiceFile(
            $actor,
            function (array $rows, string $prefix) use ($actor, $kind, &$parties, $goods): InvoiceToPost {
                $code = mb_strtoupper($rows[0]['party']);
                $parties += isset($parties[$code])
                    ? []
                    : $this->lookup->parties($actor->companyId, self::side($kind), [$code]);

                return $this->read($actor, $kind, $rows, $prefix, $goods, $parties);
            },
            $this->check,
            $this->postInvoice,
        );
    }

    public function take(Actor $actor, string $kind, array $rows, bool $approved): array
    {
        $goods = new GoodsOfRows($actor->companyId, $this->findGoods);

        return $this->postInvoice->postAll($actor, [$this->read($actor, $kind, $rows, '', $goods)]);
    }

    /**
     * @param non-empty-list<array<string, string>> $rows
     * @param array<string, Party> $parties that were read before
     *
     * @throws Refused
     */
    private function read(
        Actor $actor,
        string $kind,
        array $rows,
        string $prefix,
        GoodsOfRows $goods,
        array $parties = [],
    ): InvoiceToPost {
        $same = new ProblemList();
        SameOnAll::check($rows, self::DOCUMENT, 'document', $same);
        $problems = $same->all;
        foreach ($rows as $k => $row) {
            if ('' === $row['amount']) {
                $problems[] = new Problem(\sprintf('lines.%d.amount', $k), 'The amount is missing.');
            }
        }
        [$lines, $wrong] = $this->lines($actor, $kind, $rows, $goods, $parties);
        array_push($problems, ...$wrong);
        $input = $this->reader->read(
            $actor,
            self::side($kind),
            [
                ...array_intersect_key(
                    $rows[0],
                    array_flip(['party', 'number', 'kind', 'look_alike_reason', ...self::DOCUMENT]),
                ),
                'lines' => $lines,
            ],
            true,
            $parties,
        );
        if ([] !== $problems) {
            throw Refused::all([...$problems, ...$input->problems]);
        }

        return new InvoiceToPost($input, null, $prefix);
    }

    /**
     * @param non-empty-list<array<string, string>> $rows
     * @param array<string, Party> $parties
     *
     * @return array{array<int, array<string, string>>, list<Problem>} lines under the index of their row, and what is wrong with them
     */
    private function lines(Actor $actor, string $kind, array $rows, GoodsOfRows $goods, array $parties): array
    {
        $lines = $further = $problems = [];
        foreach ($rows as $k => $row) {
            $lines[$k] = array_intersect_key(
                $row,
                array_flip(['account', 'amount', 'tax_code', 'cost_center', 'department', 'project']),
            ) + ['text' => $row['description'], 'kind' => $row['line_kind']];
            if ('' === ($row['delivery_order'] ?? '')) {
                continue;
            }
            try {
                $party = $this->lookup->party($actor->companyId, self::side($kind), $row['party'], 'party', $parties);
                $currency = '' === $row['currency'] ? $party->currency ?? $actor->baseCurrency : $row['currency'];
                $parts = $goods->lines($row, $lines[$k], $party, $currency, $k);
                $lines[$k] = $parts[0];
                array_push($further, ...\array_slice($parts, 1));
            } catch (Refused $e) {
                // a vendor that there is not is said where the invoice is read
                $own = array_filter($e->problems, static fn (Problem $p): bool => 'party' !== $p->field);
                array_push($problems, ...array_values($own));
            }
        }

        // what a row takes of further deliveries stands behind the rows, which keep their place
        return [[...$lines, ...$further], $problems];
    }

    private static function side(string $kind): Side
    {
        return 'vendor-invoices' === $kind ? Side::Payables : Side::Receivables;
    }
}
