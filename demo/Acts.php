<?php

declare(strict_types=1);

namespace Nelbix\Demo;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\ChangePosted;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\SettleItems;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Money\ClaimKind;
use Nelbix\App\Money\ClaimRequest;
use Nelbix\App\Money\MakeClaim;
use Nelbix\App\Money\MoneyInput;
use Nelbix\App\Money\PostMoney;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;

/**
 * What people of the demo do again and again, and the agenda of what happens on which day.
 *
 * @phpstan-type DemoParty array{id: int, code: string, name: string, currency: string, method: string}
 * @phpstan-type DemoItem array{id: int, open: int, currency: string, due: Day, discount: int}
 */
final class Acts
{
    /** How many documents were made. */
    public int $count = 0;

    public Day $end;

    /** @var array<string, list<\Closure(): void>> what happens on each ISO day, in order */
    private array $agenda = [];

    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly InvoiceReader $reader,
        private readonly PostInvoice $postInvoice,
        private readonly PostMoney $postMoney,
        private readonly ChangePosted $changePosted,
        private readonly SettleItems $settleItems,
        private readonly MakeClaim $makeClaim,
    ) {
    }

    public function begin(Day $booksDay): void
    {
        $this->end = $booksDay;
        $this->agenda = [];
        $this->count = 0;
    }

    /** What would happen after the books' day does not. */
    public function on(Day $day, \Closure $event): void
    {
        if (!$day->isAfter($this->end)) {
            $this->agenda[$day->iso()][] = $event;
        }
    }

    public function live(Day $day): void
    {
        // what happens may put something on the agenda of the same day
        for ($n = 0; isset($this->agenda[$day->iso()][$n]); ++$n) {
            $this->agenda[$day->iso()][$n]();
            $this->entities->clear();
        }
    }

    /** @return list<DemoParty> by code */
    public function parties(Actor $actor, Side $side): array
    {
        return array_map(
            static fn (array $r): array => [
                'id' => (int) $r['id'],
                'code' => (string) $r['code'],
                'name' => (string) $r['name'],
                'currency' => (string) ($r['currency'] ?? $actor->baseCurrency),
                'method' => (string) $r['method'],
            ],
            $this->entities
                ->getConnection()
                ->fetchAllAssociative(
                    'SELECT id, code, name, currency, method FROM party WHERE company_id = ? AND side = ? AND nobody = 0 ORDER BY code',
                    [$actor->companyId, $side->value],
                ),
        );
    }

    /**
     * @param DemoParty $party
     *
     * @return array<string, mixed>
     */
    public function invoice(
        array $party,
        Day $day,
        int $minor,
        string $kind,
        string $number,
        string $text,
        string $tax,
    ): array {
        $first = mt_rand(0, 3) > 0 ? $minor : intdiv($minor * 2, 3);
        $line = static fn (int $amount): array => [
            'account' => '',
            'amount' => Money::decimalOf($amount),
            'tax_code' => 'EUR' === $party['currency'] ? '' : $tax,
            'text' => $text,
            'cost_center' => ['YARD', 'JOIN', 'SHOP', 'OFFICE', ''][mt_rand(0, 4)],
        ];
        $lines = [$line($first)];
        if ($first !== $minor) {
            $lines[] = [...$line($minor - $first), 'account' => 'S8' === $tax ? '4100' : '5200'];
        }

        return [
            'party' => $party['code'],
            'number' => $number,
            'kind' => $kind,
            'document_date' => $day->iso(),
            'description' => $text,
            'lines' => $lines,
        ];
    }

    /** @param array<string, mixed> $raw */
    public function post(Actor $actor, Side $side, array $raw): int
    {
        $id = $this->postInvoice->post($actor, $this->reader->read($actor, $side, $raw, true));
        ++$this->count;

        return $id;
    }

    /** What is large is approved the same day; only what came in the last days still waits. */
    public function approve(Actor $approver, int $documentId, Day $day): void
    {
        $waits =
            'awaiting' ===
            $this->entities->getConnection()->fetchOne('SELECT approval FROM document WHERE id = ?', [$documentId]);
        if ($waits && $day->isBefore($this->end->plusDays(-6))) {
            $this->changePosted->decide($approver, $documentId, true);
        }
    }

    /** @return list<DemoItem> what of a document is open, with the discount of that day */
    public function items(int $documentId, Day $day): array
    {
        return array_map(
            static fn (array $r): array => [
                'id' => (int) $r['id'],
                'open' => (int) $r['open'],
                'currency' => (string) $r['currency'],
                'due' => Day::of((string) $r['due_date']),
                'discount' => (int) $r['discount'],
            ],
            $this->entities->getConnection()->fetchAllAssociative(
                <<<'SQL'
                SELECT i.id, i.open, i.currency, i.due_date, COALESCE((SELECT amount FROM item_discount x
                    WHERE x.item_id = i.id AND x.through >= ? ORDER BY x.through LIMIT 1), 0) AS discount
                FROM open_item i
                WHERE i.document_id = ? AND i.open <> 0
                ORDER BY i.part
                SQL
                ,
                [$day->iso(), $documentId],
            ),
        );
    }

    /**
     * @param DemoParty $party
     * @param list<PlacementRequest> $placements
     * @param list<AdjustmentRequest> $adjustments
     */
    public function money(
        Actor $actor,
        Side $side,
        DocumentKind $kind,
        array $party,
        Day $day,
        int $amount,
        array $placements,
        array $adjustments,
        string $reference,
        string $method = 'transfer',
    ): int {
        $bank = (int) $this->entities
            ->getConnection()
            ->fetchOne('SELECT id FROM bank_account WHERE company_id = ?', [$actor->companyId]);
        ++$this->count;

        return $this->postMoney->post(
            $actor,
            new MoneyInput(
                $side,
                $kind,
                $party['id'],
                $bank,
                $day,
                $party['currency'],
                $amount,
                $reference,
                $method,
                $placements,
                $adjustments,
            ),
        );
    }

    /**
     * A customer disputes a part of its largest open invoice.
     *
     * @param DemoParty $customer
     */
    public function claim(Actor $actor, array $customer, Day $day, int $amount, string $about): void
    {
        $item = $this->entities
            ->getConnection()
            ->fetchOne(
                "SELECT id FROM open_item WHERE party_id = ? AND open >= ? AND kind = 'invoice' AND posting_date <= ? ORDER BY open DESC",
                [$customer['id'], $amount, $day->iso()],
            );
        if (false !== $item) {
            $this->makeClaim->make(
                $actor,
                new ClaimRequest((int) $item, $amount, ClaimKind::Disputed, $about, 'okafor', $day->plusDays(4)),
                $day,
            );
            ++$this->count;
        }
    }

    /**
     * Pays or receives all of a document that is still open, without a discount.
     *
     * @param DemoParty $party
     */
    public function inFull(Actor $actor, Side $side, int $documentId, array $party, Day $day, string $reference): void
    {
        foreach ($this->items($documentId, $day) as $item) {
            if ($item['open'] > 0) {
                $this->money(
                    $actor,
                    $side,
                    Side::Payables === $side ? DocumentKind::Payment : DocumentKind::Receipt,
                    $party,
                    $day,
                    $item['open'],
                    [new PlacementRequest($item['id'], $item['open'])],
                    [],
                    $reference,
                    Side::Payables === $side ? $party['method'] : 'transfer',
                );
            }
        }
    }

    /** A credit note is set off against the oldest that is owed and large enough; the ones of the last days wait. */
    public function setOffLater(Actor $actor, Side $side, int $document, Day $on): void
    {
        $this->on($on, function () use ($actor, $side, $document, $on): void {
            $credit = $this->items($document, $on)[0] ?? null;
            $owed =
                null === $credit
                    ? false
                    : $this->entities->getConnection()->fetchOne(
                        <<<'SQL'
                        SELECT i.id
                        FROM open_item i
                        JOIN open_item c ON c.id = ? AND c.party_id = i.party_id AND c.currency = i.currency
                        WHERE i.open >= -c.open AND i.posting_date <= ? AND i.id <> c.id AND i.reserved_by_id IS NULL
                        ORDER BY i.due_date, i.id
                        LIMIT 1
                        SQL
                        ,
                        [$credit['id'], $on->iso()],
                    );
            if (null !== $credit && false !== $owed) {
                $this->settleItems->settle(
                    $actor,
                    new SettlementRequest(
                        $side,
                        [
                            new PlacementRequest((int) $owed, -$credit['open']),
                            new PlacementRequest($credit['id'], $credit['open']),
                        ],
                        [],
                        $on,
                    ),
                );
            }
        });
    }
}
