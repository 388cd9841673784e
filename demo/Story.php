<?php

declare(strict_types=1);

namespace Nelbix\Demo;

use Brick\Math\BigDecimal;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\ChangePosted;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Invoices\KeepDraft;
use Nelbix\App\Invoices\KeepRecurring;
use Nelbix\App\Invoices\KeepRows;
use Nelbix\App\Invoices\SaveBatch;
use Nelbix\App\Invoices\WriteNote;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\ExchangeRate;
use Nelbix\App\Ledger\LockPeriod;
use Nelbix\App\Ledger\PostJournalEntry;
use Nelbix\App\Parties\Nobody;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\PageImages;
use Nelbix\App\Platform\Paper;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;

/**
 * Plays eighteen months of a company's work, seeded, through the same use cases as the screens.
 *
 * @phpstan-import-type DemoParty from Acts
 */
final class Story
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly Acts $acts,
        private readonly MoneyIn $moneyIn,
        private readonly Group $group,
        private readonly Upkeep $upkeep,
        private readonly KeepDraft $keepDraft,
        private readonly ChangePosted $changePosted,
        private readonly ReverseDocument $reverseDocument,
        private readonly CriteriaReader $criteria,
        private readonly MakeProposal $makeProposal,
        private readonly MoneyOut $moneyOut,
        private readonly PostJournalEntry $postJournalEntry,
        private readonly Chart $chart,
        private readonly LockPeriod $lockPeriod,
        private readonly SaveBatch $saveBatch,
        private readonly KeepRows $keepRows,
        private readonly KeepRecurring $keepRecurring,
        private readonly WriteNote $writeNote,
        private readonly FileStore $files,
        private readonly PageImages $pages,
        private readonly Paper $paper,
        private readonly Yard $yard,
        private readonly Nobody $nobody,
        private readonly Counter $counter,
        private readonly BankDays $bankDays,
    ) {
    }

    /** @param callable(string): void $say */
    public function play(
        string $code,
        Actor $payables,
        Actor $receivables,
        Actor $approver,
        Actor $controller,
        Actor $receiver,
        Actor $buyer,
        int $seed,
        Day $booksDay,
        callable $say,
    ): int {
        mt_srand(20260615 + $seed);
        $this->acts->begin($booksDay);
        $this->rates($payables);
        $start = Day::of('2025-01-06');
        $days = $start->daysUntil($this->acts->end);
        [$vendorInvoices, $customerInvoices] = ['BOAT' => [900, 600], 'CHAND' => [150, 130], 'NORDIC' => [50, 50]][
            $code
        ];
        $this->planVendors($payables, $approver, $start, $days, $vendorInvoices);
        $this->moneyIn->plan($receivables, $start, $days, $customerInvoices);
        $this->group->plan($code, $payables, $receivables, $approver, $start);
        $this->group->lately($code, 'CHAND' === $code ? $receivables : $payables, $approver);
        $this->upkeep->plan($code, $controller, $start);
        for (
            $day = Day::of('2025-02-03'), $step = 'BOAT' === $code ? 14 : 28;
            $day->isBefore($this->acts->end);
            $day = $day->plusDays($step)
        ) {
            $this->acts->on($day, function () use ($payables, $approver, $day): void {
                $this->acts->count += $this->moneyOut->checks($payables, $approver, $day);
            });
        }
        if ('BOAT' === $code) {
            $transfers = $this->acts->end->plusDays(-3);
            $this->acts->on($transfers, function () use ($payables, $approver, $transfers): void {
                $this->acts->count += $this->moneyOut->transfers($payables, $approver, $transfers);
            });
            $this->acts->on($this->acts->end, fn () => $this->openEnds($payables, $receivables, $controller));
            $this->yard->plan($buyer, $receiver, $payables, $approver);
        }
        $this->bankDays->plan($controller, $start);
        if ('NORDIC' === $code) {
            $this->acts->on($this->acts->end, fn () => $this->counter->mandates($receivables));
        }
        $last = '';
        for ($day = $start; !$day->isAfter($this->acts->end); $day = $day->plusDays(1)) {
            $this->acts->live($day);
            $month = substr($day->iso(), 0, 7);
            if ($month !== $last && 0 === $day->month % 3) {
                $say(\sprintf('%s through %s', $code, $day->long()));
                $last = $month;
            }
        }

        return $this->acts->count;
    }

    private function rates(Actor $actor): void
    {
        $pair = 'EUR' === $actor->baseCurrency ? ['USD', 'EUR', 9200] : ['EUR', 'USD', 10850];
        for (
            $day = Day::of('2025-01-01'), $rate = $pair[2];
            !$day->isAfter($this->acts->end);
            $day = $day->plusDays(7)
        ) {
            $rate += mt_rand(-60, 62);
            $this->entities->persist(
                new ExchangeRate(
                    $actor->companyId,
                    $day,
                    $pair[0],
                    $pair[1],
                    (string) BigDecimal::ofUnscaledValue($rate, 4),
                ),
            );
        }
        $this->entities->flush();
        $this->entities->clear();
    }

    private function planVendors(Actor $actor, Actor $approver, Day $start, int $days, int $count): void
    {
        $vendors = Group::others($this->acts->parties($actor, Side::Payables));
        for ($n = 0; $n < $count; ++$n) {
            // a few vendors send most of the paper
            $vendor = $vendors[min(mt_rand(0, \count($vendors) - 1), mt_rand(0, \count($vendors) - 1))];
            $day = $start->plusDays(mt_rand(0, $days));
            $amount = mt_rand(0, 30) > 0 ? mt_rand(2_500, 420_000) : mt_rand(900_000, 1_800_000);
            $kind = 0 === mt_rand(0, 24) ? 'credit_note' : 'invoice';
            $number = ['%d', 'INV-%d', 'BR-%d', '%d/26'][$vendor['id'] % 4];
            $raw = $this->acts->invoice(
                $vendor,
                $day,
                'credit_note' === $kind ? intdiv($amount, 6) : $amount,
                $kind,
                \sprintf($number, 20000 + $n * 7),
                Names::GOODS[$n % 12],
                'P8',
            );
            $this->acts->on($day, function () use ($actor, $approver, $raw, $vendor, $day): void {
                $id = $this->acts->post($actor, Side::Payables, $raw);
                $this->acts->approve($approver, $id, $day);
                if ('check' === $vendor['method']) {
                    return; // the fortnight's run pays it, or sets it off
                }
                'credit_note' === $raw['kind']
                    ? $this->acts->setOffLater($actor, Side::Payables, $id, $day->plusDays(14))
                    : $this->payLater($actor, $id, $vendor, $day);
            });
        }
    }

    /**
     * An open batch, what comes every month, a task for a colleague, and the paper of an invoice.
     *
     * @param list<DemoParty> $vendors
     */
    private function paperWork(Actor $payables, Actor $receivables, int $held, array $vendors): void
    {
        $e = $this->acts->end;
        $batch = $this->saveBatch->save($payables, Side::Payables, [
            'name' => 'Monday’s mail',
            'posting_date' => $e->iso(),
            'control_count' => '6',
            'control_total' => '2481.65',
        ]);
        $this->keepRows->keep(
            $payables,
            Side::Payables,
            $batch,
            array_map(
                static fn (int $k): array => [
                    'party' => $vendors[$k]['code'],
                    'number' => (string) (7710 + $k * 3),
                    'document_date' => $e->plusDays(-$k)->iso(),
                    'account' => '5000',
                    'amount' => ['118.40', '642.00', '77.25', '980.00', '364.00'][$k % 5],
                    'tax_code' => '',
                    'cost_center' => 'YARD',
                    'text' => Names::GOODS[$k % 12],
                    'due_date' => '',
                    'draft' => '',
                    'version' => '',
                ],
                [2, 3, 7, 9, 30],
            ),
        );
        $rent = $this->acts->post($payables, Side::Payables, [
            'party' => $vendors[35]['code'],
            'number' => 'R-2026-06',
            'document_date' => '2026-06-01',
            'description' => 'rent of the yard',
            'lines' => [['account' => '6000', 'amount' => '3200.00', 'text' => 'June', 'cost_center' => 'YARD']],
        ]);
        $this->keepRecurring->begin($payables, Side::Payables, $rent, [
            'name' => 'rent of the yard',
            'every' => 'month',
            'first_on' => '2026-07-01',
        ]);
        $storage = (int) $this->entities
            ->getConnection()
            ->fetchOne(
                "SELECT MAX(id) FROM document WHERE company_id = ? AND side = 'receivables' AND kind = 'invoice' AND state = 'posted'",
                [$receivables->companyId],
            );
        $this->keepRecurring->begin($receivables, Side::Receivables, $storage, [
            'name' => 'slip rental',
            'every' => 'month_end',
            'first_on' => '2026-05-31',
            'most' => '12',
        ]);
        $this->writeNote->write(
            $payables,
            Side::Payables,
            $held,
            'Ask them for the credit note over two bolts; they promised it by phone.',
            'soto',
            $e->plusDays(2),
        );
        $paper = $this->files->keep(
            $payables,
            'paper',
            $held,
            'SS-0911.pdf',
            $this->paper->bytes('invoices/invoice_pdf.html.twig', [
                'printed' => [
                    [
                        'company' => [
                            'name' => 'Sable Sailcloth',
                            'address' => '12 Rope Walk',
                            'city' => 'Barrow Quay',
                            'country' => 'US',
                            'taxNumber' => '',
                        ],
                        'lines' => [
                            [
                                'text' => 'sailcloth 9 oz',
                                'tax_code' => '8 %',
                                'net' => 187_500,
                                'quantity' => null,
                                'price' => null,
                            ],
                        ],
                        'taxes' => [['text' => 'Tax 8 %', 'net' => 187_500, 'tax' => 15_000]],
                        'parts' => [],
                        'discounts' => [],
                        'bank' => null,
                        'terms' => '',
                        'reference' => '',
                        'd' => [
                            'kind' => 'invoice',
                            'number' => 'SS-0911',
                            'document_date' => $e->plusDays(-34)->iso(),
                            'currency' => 'USD',
                            'total' => 202_500,
                            'description' => 'sailcloth for Ada',
                            'reference' => '',
                            'name' => 'Tamarack Boatworks',
                            'street' => '4 Slipway Lane',
                            'city' => 'Alder Point',
                            'country' => 'US',
                            'tax_number' => '',
                        ],
                    ],
                ],
            ]),
            ['application/pdf'],
        );
        $this->pages->expect($payables->companyId, $paper);
    }

    /** @param DemoParty $party */
    private function payLater(Actor $actor, int $documentId, array $party, Day $day): void
    {
        $due = $this->acts->items($documentId, $day)[0]['due'] ?? null;
        if (null === $due) {
            return;
        }
        $on = Day::latest($due->plusDays(mt_rand(-3, 2)), $day->plusDays(1));
        if ($on->isAfter($this->acts->end->plusDays(-21))) {
            return; // left for the run of transfers
        }
        $this->acts->on(
            $on,
            fn () => $this->acts->inFull($actor, Side::Payables, $documentId, $party, $on, 'TR-'.$documentId),
        );
    }

    /** What the demo must hold on the books' day: a case of everything interesting. */
    private function openEnds(Actor $payables, Actor $receivables, Actor $controller): void
    {
        $db = $this->entities->getConnection();
        $vendors = $this->acts->parties($payables, Side::Payables);
        $customers = $this->acts->parties($receivables, Side::Receivables);
        $e = $this->acts->end;
        // discounts about to lapse, a look-alike, a held invoice, one that awaits approval
        foreach (
            [
                [0, 640_000, 8, '88164'],
                [1, 280_000, 7, 'BR-2231'],
                [7, 96_050, 6, 'CF-771'],
                [10, 158_875, 9, 'OEW 3307'],
            ] as [$v, $amount, $ago, $number]
        ) {
            $this->acts->post(
                $payables,
                Side::Payables,
                $this->acts->invoice(
                    $vendors[$v],
                    $e->plusDays(-$ago),
                    $amount,
                    'invoice',
                    $number,
                    Names::GOODS[$v % 12],
                    'P8',
                ),
            );
        }
        $this->acts->post(
            $payables,
            Side::Payables,
            $this->acts->invoice($vendors[1], $e->plusDays(-5), 91_240, 'invoice', 'BR-2240', 'epoxy, 4 drums', ''),
        );
        $this->keepDraft->keep($payables, Side::Payables, [
            'party' => $vendors[1]['code'],
            'number' => 'BR 02240',
            'document_date' => $e->plusDays(-4)->long(),
            'lines' => [['account' => '5000', 'amount' => '912.40', 'text' => 'epoxy']],
        ]);
        $this->keepDraft->keep($payables, Side::Payables, [
            'party' => $vendors[16]['code'],
            'number' => '',
            'document_date' => $e->long(),
            'lines' => [['account' => '6400', 'amount' => '61.20', 'text' => 'paper']],
        ]);
        $held = $this->acts->post(
            $payables,
            Side::Payables,
            $this->acts->invoice($vendors[3], $e->plusDays(-34), 187_500, 'invoice', 'SS-0911', 'sailcloth 9 oz', 'P8'),
        );
        $this->changePosted->hold($payables, $held, 'two bolts short; wait for their credit note');
        $this->acts->post(
            $payables,
            Side::Payables,
            $this->acts->invoice(
                $vendors[4],
                $e->plusDays(-3),
                1_450_000,
                'invoice',
                'LC-5521',
                'crane, launch of Ada',
                'P8',
            ),
        );
        // prepayments on both sides, unapplied money, a bounced receipt, a voided check
        $this->acts->money(
            $payables,
            Side::Payables,
            DocumentKind::Prepayment,
            $vendors[48],
            $e->plusDays(-20),
            400_000,
            [],
            [],
            'spar deposit',
            'transfer',
        );
        $this->acts->money(
            $receivables,
            Side::Receivables,
            DocumentKind::Prepayment,
            $customers[5],
            $e->plusDays(-12),
            1_260_000,
            [],
            [],
            'deposit, new dinghy',
            'transfer',
        );
        $this->acts->money(
            $receivables,
            Side::Receivables,
            DocumentKind::Receipt,
            $customers[8],
            $e->plusDays(-2),
            85_000,
            [],
            [],
            'no text',
            'transfer',
        );
        $this->acts->money(
            $receivables,
            Side::Receivables,
            DocumentKind::Receipt,
            ['id' => $this->nobody->of($receivables->companyId)->id(), 'currency' => 'USD'] + $customers[8],
            $e->plusDays(-1),
            41_280,
            [],
            [],
            'hull paint, thank you',
            'transfer',
        );
        $this->acts->claim($receivables, $customers[2], $e->plusDays(-4), 38_000, 'the mast step was scratched');
        $this->moneyOut->refund(
            $receivables,
            $this->acts->money(
                $receivables,
                Side::Receivables,
                DocumentKind::Receipt,
                $customers[11],
                $e->plusDays(-9),
                42_000,
                [],
                [],
                'T-9911',
                'transfer',
            ),
            $e->plusDays(-1),
        );
        $this->moneyOut->habits($payables, $e);
        $receipt = $db->fetchOne(
            <<<SQL
            SELECT d.id
            FROM document d
            JOIN settlement s ON s.document_id = d.id AND s.undone_on IS NULL
            WHERE d.company_id = ? AND d.kind = 'receipt' AND d.state = 'posted' AND d.posting_date < ?
            ORDER BY d.posting_date DESC, d.id DESC
            LIMIT 1
            SQL
            ,
            [$receivables->companyId, $e->plusDays(-6)->iso()],
        );
        $this->reverseDocument->event(
            $receivables,
            (int) $receipt,
            $e->plusDays(-3),
            HowTakenBack::Bounced,
            'returned by the bank, no funds',
        );
        $check = $db->fetchOne(
            <<<SQL
            SELECT k.document_id
            FROM bank_check k
            JOIN document d ON d.id = k.document_id
            WHERE d.company_id = ? AND k.state = 'issued'
            ORDER BY k.number DESC
            LIMIT 1
            SQL
            ,
            [$payables->companyId],
        );
        $this->reverseDocument->event(
            $payables,
            (int) $check,
            $e->plusDays(-4),
            HowTakenBack::Voided,
            'lost in the mail',
        );
        // one deliberate break between a control account and its ledger
        $account = fn (string $number): int => $this->chart->postable($controller->companyId, $number, 'account');
        $this->postJournalEntry->post(
            $controller,
            JournalDraft::of($controller->baseCurrency, [
                new DraftLine($account('1000'), 41_250, 41_250, 'shop cash over'),
                new DraftLine(
                    $this->chart->role($controller->companyId, \Nelbix\Core\Ledger\AccountRole::Receivables),
                    -41_250,
                    -41_250,
                    'shop cash over',
                ),
            ]),
            $e->plusDays(-6),
            'shop cash over',
            true,
        );
        $this->counter->open($receivables);
        $this->paperWork($payables, $receivables, $held, $vendors);
        // a proposal that awaits approval, and the last closed periods
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = $this->criteria->read($payables, [
            'pay_date' => $e->plusDays(1)->iso(),
            'due_through' => $e->plusDays(5)->iso(),
            'again_on' => $e->plusDays(15)->iso(),
            'vendors' => ($some = array_map(static fn (array $v): string => $v['code'], \array_slice($vendors, 8, 14))),
        ]);
        $this->makeProposal->make($payables, $criteria, $bank, $method, ['vendors' => implode(' ', $some)]);
        foreach (
            $db->fetchFirstColumn('SELECT id FROM period WHERE company_id = ? AND last_day < ?', [
                $controller->companyId,
                '2026-04-30',
            ]) as $period
        ) {
            foreach (['ledger', 'payables', 'receivables'] as $which) {
                $this->lockPeriod->set($controller, (int) $period, $which, true, 'the month is done');
            }
        }
    }
}
