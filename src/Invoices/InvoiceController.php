<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Books\Approval;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\DocumentState;
use Nelbix\App\Books\StandingSettlements;
use Nelbix\App\Books\WhatItDid;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Goods\AccruedLines;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Calendar\FarDay;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Money\Rounding;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Nelbix\Core\Terms\DatedDiscount;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** The invoice form of both sides: enter, see the entry live, keep as draft, post. */
#[Route('/{company}/{side}', requirements: ['company' => '[A-Z0-9]{2,12}', 'side' => 'payables|receivables'])]
final class InvoiceController extends Screen
{
    private const LINE = [
        'delivery_line' => '',
        'order_line' => '',
        'account' => '',
        'amount' => '',
        'tax_code' => '',
        'text' => '',
        'cost' => '',
        'kind' => '',
        'cost_center' => '',
        'department' => '',
        'project' => '',
    ];

    public function __construct(
        private readonly InvoiceReader $reader,
        private readonly InvoicePlanner $planner,
        private readonly PostWithMoney $withMoney,
        private readonly KeepDraft $keepDraft,
        private readonly LookAlikes $lookAlikes,
        private readonly CodeBook $codes,
        private readonly Chart $chart,
        private readonly EntityManagerInterface $entities,
        private readonly DocumentForm $documentForm,
        private readonly PutRight $putRight,
        private readonly FileStore $files,
        private readonly LineTemplates $templates,
        private readonly WhatItDid $did,
        private readonly ReplaceClaim $claims,
        private readonly LedgerWriter $ledger,
        private readonly BankAccounts $banks,
        private readonly InvoiceFormQuery $query,
        private readonly DocumentQuery $documents,
        private readonly BatchQuery $batches,
        private readonly CreditLimit $credit,
        private readonly AccruedLines $accrued,
    ) {
    }

    #[Route('/invoice', name: 'invoice_new', methods: ['GET'])]
    #[Needs('enter')]
    public function enter(Desk $desk, Side $side, Request $request): Response
    {
        $kept = array_intersect_key($request->query->all(), [
            'posting_date' => 1,
            'kind' => 1,
            'party' => 1,
            'batch' => 1,
            'against' => 1,
        ]);
        $form = [
            'document_date' => '',
            'kind' => 'invoice',
            ...array_map(static fn (mixed $v): string => \is_string($v) ? mb_substr($v, 0, 40) : '', $kept),
        ];
        if (Side::Receivables === $side) {
            $form['document_date'] = $desk->today->long();
        }

        $posting =
            '' === ($form['batch'] ?? '')
                ? null
                : $this->batches->postingDate($desk->id(), $side, (int) $form['batch']);
        $form =
            null === $posting
                ? array_diff_key($form, ['batch' => 1])
                : [...$form, 'posting_date' => Day::of($posting)->long()];
        $like = self::int($request->query, 'like');
        if ($like > 0) {
            $form = [...$form, ...$this->documentForm->of($this->posted($desk, $side, $like), false)];
        }

        return $this->form($desk, $side, $form);
    }

    /** The form of a posted document, to post it anew and reverse what was posted. */
    #[Route('/document/{id<\d+>}/put-right', name: 'invoice_put_right', methods: ['GET'])]
    #[Needs('enter')]
    public function putRight(Desk $desk, Side $side, int $id, StandingSettlements $standing): Response
    {
        $document = $this->posted($desk, $side, $id);
        if (
            DocumentState::Posted !== $document->state
            || !$document->kind->isInvoiced()
            || null !== $document->reversesId
        ) {
            throw $this->createNotFoundException('Only a posted invoice or note is put right.');
        }

        try {
            $standing->mustBeNone($document);
        } catch (Refused $e) {
            $this->addFlash('refused', $e->getMessage());

            return $this->redirectToRoute(
                'document',
                ['company' => $desk->company->code, 'side' => $side->value, 'id' => $id],
                303,
            );
        }

        return $this->form($desk, $side, [...$this->documentForm->of($document, true), '_put_right' => (string) $id]);
    }

    /** The lines of a document, offered to the next one of the same party. */
    #[Route('/document/{id<\d+>}/lines', name: 'invoice_lines', methods: ['GET'])]
    #[Needs('enter')]
    public function linesOf(Desk $desk, Side $side, int $id): JsonResponse
    {
        return new JsonResponse($this->documentForm->of($this->posted($desk, $side, $id), false)['lines']);
    }

    #[Route('/draft/{id<\d+>}', name: 'invoice_draft', methods: ['GET'])]
    #[Needs('enter')]
    public function draft(Desk $desk, Side $side, int $id): Response
    {
        $draft = $this->entities->find(Document::class, $id);
        if (
            !($draft instanceof Document)
            || $draft->companyId !== $desk->id()
            || $draft->side !== $side
            || DocumentState::Draft !== $draft->state
        ) {
            throw $this->createNotFoundException('This draft was already posted or removed.');
        }

        return $this->form($desk, $side, $draft->draftInput ?? [], [], $draft);
    }

    #[Route('/invoice/live', name: 'invoice_live', methods: ['POST'])]
    #[Needs('enter')]
    public function live(Desk $desk, Side $side, Request $request): Response
    {
        $raw = $request->request->all();

        return $this->render('invoices/invoice_live.html.twig', $this->worked($desk, $side, $raw));
    }

    #[Route('/invoice', name: 'invoice_save', methods: ['POST'])]
    #[Needs('enter')]
    public function save(Desk $desk, Side $side, Request $request): Response
    {
        $raw = $request->request->all();
        $draftId = self::int($request->request, '_draft') ?: null;
        $draft = null === $draftId ? null : $this->entities->find(Document::class, $draftId);
        $action = (string) $request->request->get('_action', 'post');
        try {
            if ('draft' === $action || 'draft_next' === $action) {
                $kept = $this->keepDraft->keep(
                    $desk->actor,
                    $side,
                    $raw,
                    $draftId,
                    null === $draftId ? null : self::int($request->request, '_version'),
                );
                $batch = $kept->batchId;
                $this->say(
                    null === $batch
                        ? 'Draft saved. It is on the list of drafts; nothing is in the books yet.'
                        : 'Kept in the batch; nothing is in the books yet.',
                );
                if (null !== $batch && 'draft_next' === $action) {
                    return $this->redirectToRoute(
                        'invoice_new',
                        ['company' => $desk->company->code, 'side' => $side->value, 'batch' => $batch],
                        303,
                    );
                }

                return null !== $batch
                    ? $this->redirectToRoute(
                        'batch',
                        ['company' => $desk->company->code, 'side' => $side->value, 'id' => $batch],
                        303,
                    )
                    : $this->redirectToRoute(
                        'invoice_draft',
                        ['company' => $desk->company->code, 'side' => $side->value, 'id' => $kept->id],
                        303,
                    );
            }
            $input = $this->reader->read($desk->actor, $side, $raw);
            $key = FormKey::of($request);
            $wrong = self::int($request->request, '_put_right');
            $id =
                $wrong > 0
                    ? $this->putRight->putRight(
                        $desk->actor,
                        $wrong,
                        $input,
                        (string) $request->request->get('reason', ''),
                        $key,
                    )
                    : $this->withMoney->post(
                        $desk->actor,
                        $input,
                        $key,
                        $draftId,
                        null === $draftId ? null : self::int($request->request, '_version'),
                    );
        } catch (Refused $e) {
            return $this->form($desk, $side, $raw, $e->problems, $draft instanceof Document ? $draft : null);
        }
        $this->say($this->said($desk, $side, $id));

        return 'next' === $action
            ? $this->redirectToRoute(
                'invoice_new',
                [
                    'company' => $desk->company->code,
                    'side' => $side->value,
                    'kind' => $input->kind->value,
                    'posting_date' => \is_string($raw['posting_date'] ?? null) ? $raw['posting_date'] : '',
                ],
                303,
            )
            : $this->redirectToRoute(
                'document',
                ['company' => $desk->company->code, 'side' => $side->value, 'id' => $id],
                303,
            );
    }

    #[Route('/draft/{id<\d+>}/discard', name: 'invoice_discard', methods: ['POST'])]
    #[Needs('enter')]
    public function discard(Desk $desk, Side $side, int $id): Response
    {
        return $this->act(
            function () use ($desk, $side, $id): string {
                $this->keepDraft->discard($desk->actor, $side, $id);

                return 'Draft thrown away. The books never knew it.';
            },
            'documents',
            ['company' => $desk->company->code, 'side' => $side->value],
        );
    }

    private function posted(Desk $desk, Side $side, int $id): Document
    {
        $document = $this->entities->find(Document::class, $id);

        return $document instanceof Document
            && $document->companyId === $desk->id()
            && $document->side === $side
            && DocumentState::Draft !== $document->state
            ? $document
            : throw $this->createNotFoundException('There is no such document in this company.');
    }

    private function said(Desk $desk, Side $side, int $id): string
    {
        $document = $this->entities->find(Document::class, $id) ?? throw new \LogicException();
        $discount = $this->query->firstDiscount($id);

        $claim = $this->claims->claimOf($side, $document->kind, $document->againstId);
        $reversed = array_filter([$document->replacesId, $claim?->id()]);
        $did = $this->did->words($desk->actor, [
            $id,
            ...array_merge(...array_map($this->query->reversalsOf(...), array_values($reversed))),
        ]);
        $came = $this->query->cameWith($id);

        return implode(
            ' ',
            array_filter([
                \sprintf(
                    'Posted %s%s.',
                    $document->number,
                    null === $document->replacesId
                        ? ''
                        : ', which puts '.$this->documents->number($document->replacesId).' right',
                ),
                '' === $did && null !== $document->replacesId ? 'What is owed stays the same.' : $did,
                null === $document->dueDate
                    ? ''
                    : \sprintf(
                        'Due %s%s',
                        $this->due($document),
                        false === $discount
                            ? '.'
                            : \sprintf(
                                '; %s discount until %s.',
                                Typography::amount((int) $discount['amount'], $document->currency),
                                Typography::day((string) $discount['through']),
                            ),
                    ),
                null === $claim ? '' : \sprintf('It takes the place of %s, which is reversed.', $claim->number),
                null === $came
                    ? ''
                    : \sprintf('With it came %s: %s', $came['number'], $this->did->words($desk->actor, [$came['id']])),
                Approval::Awaiting === $document->approval ? 'It awaits approval before it can be paid.' : '',
                Document::MATCH === $document->heldFor
                    ? 'It does not fit its order and is held; whoever ordered decides on it.'
                    : '',
            ]),
        );
    }

    /** The day it falls due; of instalments every one, with what falls due on it. */
    private function due(Document $document): string
    {
        $parts = $this->documents->items($document->id())['items'];

        return \count($parts) < 2
            ? (string) $document->dueDate?->long()
            : implode(
                ', ',
                array_map(
                    static fn (array $i): string => \sprintf(
                        '%s %s',
                        Typography::day((string) $i['due_date']),
                        Typography::amount(abs((int) $i['original']), $document->currency),
                    ),
                    $parts,
                ),
            );
    }

    /**
     * @param array<mixed> $raw
     * @param list<Problem> $problems
     */
    private function form(Desk $desk, Side $side, array $raw, array $problems = [], ?Document $draft = null): Response
    {
        $worked = $this->worked($desk, $side, $raw);
        /** @var InvoiceInput $input */
        $input = $worked['input'];
        $putRight = isset($raw['_put_right']) ? $this->posted($desk, $side, (int) $raw['_put_right']) : null;

        return $this->render(
            'invoices/invoice.html.twig',
            [
                ...$worked,
                'banks' => Side::Payables === $side ? [] : $this->banks->names($desk->id()),
                'templates' => $this->templates->of($desk->id(), $side),
                'draft' => $draft,
                'problems' => $problems,
                'errors' => self::byField($problems),
                'papers' => $this->papers($desk, $input, $draft),
                'putRight' => $putRight,
                // looked at while it is put right; it goes along by itself
                'kept' => null === $putRight ? [] : array_values($this->papersOf($desk, $putRight)),
                'key' => FormKey::goOn($raw),
                'kinds' => Side::Payables === $side
                        ? [DocumentKind::Invoice, DocumentKind::CreditNote, DocumentKind::DebitNote]
                        : [
                            DocumentKind::Invoice,
                            DocumentKind::CreditNote,
                            DocumentKind::DebitNote,
                            DocumentKind::FinanceCharge,
                        ],
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }

    /** @return array<int, array{id: int, name: string, pages: int}> what belongs to a document, by id */
    private function papersOf(Desk $desk, Document $document): array
    {
        $papers = [];
        foreach ($this->files->of($desk->id(), 'paper', $document->id()) as $file) {
            $papers[$file['id']] = ['id' => $file['id'], 'name' => $file['name'], 'pages' => $file['pages']];
        }

        return $papers;
    }

    /** @return list<array{id: int, name: string, pages: int}> what was uploaded for this form, or belongs to its draft */
    private function papers(Desk $desk, InvoiceInput $input, ?Document $draft): array
    {
        $papers = null === $draft ? [] : $this->papersOf($desk, $draft);
        foreach ($input->papers as $id) {
            $file = $this->files->read($desk->id(), 'paper', $id);
            if (null !== $file && null === $file['subject_id'] && $file['created_by'] === $desk->actor->userId) {
                $papers[$id] = ['id' => $id, 'name' => $file['name'], 'pages' => $file['pages']];
            }
        }

        return array_values($papers);
    }

    /**
     * Everything the form and its entry panel show for what is typed so far.
     *
     * @param array<mixed> $raw
     *
     * @return array<string, mixed>
     */
    private function worked(Desk $desk, Side $side, array $raw): array
    {
        $input = $this->reader->read($desk->actor, $side, $raw);
        $plan = null;
        $refusal = null;
        $came = null;
        try {
            $plan = [] === $input->lines ? null : $this->planner->plan($desk->actor, $input);
            $came =
                null === $plan || null === $input->partyId
                    ? null
                    : $this->withMoney->preview($desk->actor, $input, $plan);
        } catch (Refused $e) {
            $refusal = $e->getMessage();
        }
        // while typing, a missing field is no error yet; one that cannot be understood is
        $typed = array_filter($input->problems, static fn (Problem $p): bool => ProblemKind::Missing !== $p->kind);
        $party = null === $input->partyId ? null : $this->entities->find(Party::class, $input->partyId);
        $total = $plan?->tax->total();

        return [
            'side' => $side,
            'form' => $raw,
            'input' => $input,
            'plan' => $plan,
            'came' => $came,
            'net' => $this->net($plan, $input, $raw),
            'refusal' => $refusal,
            'typed' => self::byField(array_values($typed)),
            'party' => $party,
            'term' => null === $input->termId ? null : $this->codes->terms($desk->id())[$input->termId],
            'accounts' => $this->chart->accounts($desk->id()),
            'taxCodes' => $this->codes->taxCodes($desk->id()),
            'discounts' => null === $plan
                    ? []
                    : array_merge(
                        ...array_map(
                            static fn ($p): array => array_map(
                                static fn (DatedDiscount $d): array => [
                                    'through' => $d->through,
                                    'amount' => $d->amount,
                                    'percent' => (string) $d->percent->stripTrailingZeros(),
                                ],
                                $p->discounts,
                            ),
                            $plan->parts,
                        ),
                    ),
            'lookAlikes' => $this->lookAlikes->of(
                $desk->id(),
                $side,
                $input->partyId,
                $input->number,
                $total,
                $input->documentDate,
                \is_string($raw['_put_right'] ?? null)
                    ? (int) $raw['_put_right']
                    : (\is_string($raw['_draft'] ?? null)
                        ? (int) $raw['_draft']
                        : null),
            ),
            'farDay' => [] !==
                array_filter(
                    [$input->documentDate, $input->postingDate],
                    static fn (?Day $d): bool => null !== $d && FarDay::is($d, $desk->today),
                ),
            'overLimit' => null !== $party && null !== $plan && CreditLimit::concerns($input)
                    ? $this->credit->over($desk->actor, $party->id(), $plan->worth)
                    : null,
            'delivered' => null !== $party && Side::Payables === $side && DocumentKind::Invoice === $input->kind
                    ? $this->accrued->waiting($desk->id(), $party->id())
                    : null,
            'limitBlocks' => $this->credit->blocks($desk->id()),
            'defaults' => $this->defaults($party),
            'last' => $this->last($desk, $side, $input, $raw),
            'lines' => self::formLines($raw, self::LINE),
            'rest' => $this->rest($desk, $side, $input, $raw, $total),
        ];
    }

    /**
     * What changes when a document is put right, or takes a claim's place: its new entry less the one that is reversed.
     *
     * @param array<mixed> $raw
     */
    private function net(?InvoicePlan $plan, InvoiceInput $input, array $raw): ?JournalDraft
    {
        $instead = \is_string($raw['_put_right'] ?? null)
            ? (int) $raw['_put_right']
            : $this->claims->claimOf($input->side, $input->kind, $input->againstId)?->id();
        $entry = null === $plan || null === $instead ? null : $this->query->entryOf($instead);

        return null === $plan || null === $entry ? null : $plan->entry->less($this->ledger->draftOf($entry));
    }

    /** @return array<string, string> what a new line of this party begins with */
    private function defaults(?Party $party): array
    {
        if (
            null === $party
            || null === ($party->defaultTaxCodeId ?? ($party->costCenterId ?? ($party->departmentId ?? $party->projectId)))
        ) {
            return [];
        }

        return $this->query->defaults($party->id());
    }

    /**
     * The party's last invoice, offered while the lines are still empty; never taken by itself.
     *
     * @param array<mixed> $raw
     *
     * @return array<string, mixed>|null
     */
    private function last(Desk $desk, Side $side, InvoiceInput $input, array $raw): ?array
    {
        if (null === $input->partyId || [] !== $input->lines || isset($raw['_put_right'])) {
            return null;
        }

        return $this->query->last($desk->id(), $side, $input->partyId, $input->kind);
    }

    /**
     * What the paper's total leaves for the first line without an amount, before tax.
     *
     * @param array<mixed> $raw
     */
    private function rest(Desk $desk, Side $side, InvoiceInput $input, array $raw, ?int $total): ?string
    {
        $left = null === $input->statedTotal ? 0 : $input->statedTotal - ($total ?? 0);
        if ($left <= 0) {
            return null;
        }
        foreach (self::formLines($raw, self::LINE) as $line) {
            if ('' !== $line['amount']) {
                continue;
            }
            try {
                $code = $this->codes->taxCode($desk->id(), $side, $line['tax_code'], 'tax_code')?->rule();
            } catch (Refused) {
                $code = null;
            }
            $net =
                null === $code || $code->inclusive || $code->reverseCharge
                    ? $left
                    : Rounding::toInt(
                        $code->rate->toBigRational()->plus(100)->reciprocal()->multipliedBy(100)->multipliedBy($left),
                    );

            return Money::of($net, $input->currency)->decimal();
        }

        return null;
    }
}
