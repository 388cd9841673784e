<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\Exception\UniqueConstraintViolationException;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Approval;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\DocumentLine;
use Nelbix\App\Books\DocumentState;
use Nelbix\App\Books\DocumentTax;
use Nelbix\App\Books\ItemDiscount;
use Nelbix\App\Books\OpenItemRecord;
use Nelbix\App\Books\SettleNamedCredit;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\EntryOrder;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Ledger\Source;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Bulk;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Numbering;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Money\Shares;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Posts an invoice, credit note, debit note or finance charge of either side: document, open items, journal entry, or nothing. */
final readonly class PostInvoice
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private InvoicePlanner $planner,
        private LedgerWriter $ledger,
        private PeriodGate $periods,
        private Numbering $numbering,
        private Settings $settings,
        private History $history,
        private ClockInterface $clock,
        private LookAlikes $lookAlikes,
        private SettleNamedCredit $settleCredit,
        private FileStore $files,
        private Bulk $bulk,
        private CodeBook $codes,
    ) {
    }

    /**
     * @param string|null $idempotencyKey the same key twice makes one document
     * @param int|null $draftId the draft this was, which becomes the document
     *
     * @return int the document's id
     *
     * @throws Refused with every problem of the input
     */
    public function post(Actor $actor, InvoiceInput $input, ?string $idempotencyKey = null, ?int $draftId = null): int
    {
        if (null !== $idempotencyKey) {
            $done = $this->entities
                ->getConnection()
                ->fetchOne(
                    'SELECT id FROM document WHERE company_id = ? AND idempotency_key = ? AND state <> \'draft\'',
                    [$actor->companyId, $idempotencyKey],
                );
            if (false !== $done) {
                return (int) $done;
            }
        }
        $plan = null;
        $problems = $input->problems;
        try {
            $plan = $this->planner->plan($actor, $input);
        } catch (Refused $e) {
            // lines that could not be read are named already; that none is left to work with is no news
            $known = static fn (Problem $p): bool => [] !==
                array_filter(
                    $problems,
                    static fn (Problem $q): bool => $q->field === $p->field
                        || (str_starts_with($q->field, 'lines.') && str_starts_with($p->field, 'lines')),
                );
            array_push($problems, ...array_filter($e->problems, static fn (Problem $p): bool => !$known($p)));
        }
        if ($this->isTaken($actor, $input, $draftId)) {
            $problems[] = $this->taken($input);
        }
        if (null !== $plan && null !== $input->statedTotal && $input->statedTotal !== $plan->tax->total()) {
            $problems[] = new Problem(
                'stated_total',
                \sprintf(
                    'The lines with tax add up to %s, the total says %s; mend a line or the total.',
                    Money::of($plan->tax->total(), $input->currency)->decimal(),
                    Money::of($input->statedTotal, $input->currency)->decimal(),
                ),
            );
        }
        if (null !== $plan) {
            try {
                $this->periods->mustBeOpen($actor->companyId, $plan->postingDate, [$input->side]);
            } catch (Refused $e) {
                array_push($problems, ...$e->problems);
            }
        }
        // the clerk decides whether it is another one, and says why
        if (
            null !== $plan
            && '' === $input->lookAlikeReason
            && Side::Payables === $input->side
            && [] !==
                ($alike = $this->lookAlikes->of(
                    $actor->companyId,
                    $input->side,
                    $input->partyId,
                    $input->number,
                    $plan->tax->total(),
                    $input->documentDate,
                    $draftId,
                ))
        ) {
            $problems[] = new Problem(
                'look_alike_reason',
                \sprintf(
                    'It looks like %s (%s). Say why it is another one, or throw it away.',
                    $alike[0]['number'] ?? 'draft '.$alike[0]['id'],
                    $alike[0]['why'],
                ),
            );
        }
        if (null === $plan || [] !== $problems) {
            throw Refused::all(
                [] === $problems ? [new Problem('', 'The document cannot be worked out.')] : array_values($problems),
            );
        }
        try {
            return $this->transaction->run(fn (): int => $this->write($actor, $input, $plan, $idempotencyKey, $draftId));
        } catch (UniqueConstraintViolationException $e) {
            if (
                null !== $idempotencyKey
                && false !==
                    ($done = $this->entities
                        ->getConnection()
                        ->fetchOne('SELECT id FROM document WHERE company_id = ? AND idempotency_key = ?', [
                            $actor->companyId,
                            $idempotencyKey,
                        ]))
            ) {
                return (int) $done;
            }
            throw Refused::all([$this->taken($input)]);
        }
    }

    /** The unique keys of the table decide in the end; this says it before anything is written. */
    private function isTaken(Actor $actor, InvoiceInput $input, ?int $draftId): bool
    {
        if ('' === $input->number || null === $input->partyId) {
            return false;
        }
        $db = $this->entities->getConnection();

        return Side::Payables === $input->side
            ? false !==
                    $db->fetchOne(
                        <<<'SQL'
                        SELECT 1
                        FROM document
                        WHERE company_id = ? AND side = ? AND party_id = ? AND kind = ? AND live_key = ? AND id <> ?
                        SQL
                        ,
                        [
                            $actor->companyId,
                            $input->side->value,
                            $input->partyId,
                            $input->kind->value,
                            mb_strtoupper($input->number),
                            $draftId ?? 0,
                        ],
                    )
            : false !==
                    $db->fetchOne('SELECT 1 FROM document WHERE company_id = ? AND number = ? AND id <> ?', [
                        $actor->companyId,
                        $input->number,
                        $draftId ?? 0,
                    ]);
    }

    private function taken(InvoiceInput $input): Problem
    {
        return new Problem(
            'number',
            Side::Payables === $input->side
                ? \sprintf(
                    'This vendor’s number %s is already entered; look at that document, or correct the number.',
                    $input->number,
                )
                : \sprintf('The number %s is already used; leave it empty for the next one.', $input->number),
        );
    }

    private function write(
        Actor $actor,
        InvoiceInput $input,
        InvoicePlan $plan,
        ?string $idempotencyKey,
        ?int $draftId,
    ): int {
        $total = $plan->tax->total();
        $sign = $input->kind->itemSign($input->side);
        $document = null;
        if (null !== $draftId) {
            $document = $this->entities->find(Document::class, $draftId, \Doctrine\DBAL\LockMode::PESSIMISTIC_WRITE);
            if (
                null === $document
                || $document->companyId !== $actor->companyId
                || DocumentState::Draft !== $document->state
                || $document->kind !== $input->kind
                || $document->side !== $input->side
            ) {
                throw Refused::because('', 'This draft was already posted or removed; look at the list of documents.');
            }
            $document->draftInput = null;
            $document->state = DocumentState::Posted;
        }
        $document ??= new Document(
            $actor->companyId,
            $input->side,
            $input->kind,
            DocumentState::Posted,
            $actor->userId,
            $this->clock->now(),
        );
        $document->partyId = $input->partyId;
        $document->documentDate = $plan->documentDate;
        $document->postingDate = $plan->postingDate;
        $document->dueDate = $plan->parts[\count($plan->parts) - 1]->due;
        $document->startDate = $input->startDate;
        $document->termId = $input->termId;
        $document->currency = $input->currency;
        $document->rate = (string) $plan->rate;
        $document->net = $plan->tax->net;
        $document->tax = $plan->tax->tax;
        $document->total = $total;
        $document->totalBase = $plan->base;
        $document->discountBase = $plan->discountBase;
        $document->description = $input->description;
        $document->idempotencyKey = $idempotencyKey;
        $document->lookAlikeReason = $input->lookAlikeReason ?? '';
        $document->againstId = $input->againstId;
        $document->salesperson = $input->salesperson;
        $document->commissionPercent = $input->commissionPercent;
        $document->postedAt = $this->clock->now();
        if (
            Side::Payables === $input->side
            && DocumentKind::Invoice === $input->kind
            && $plan->base > $this->settings->of($actor->companyId)->amount('invoice_approval_above', $actor->baseCurrency)
        ) {
            $document->approval = Approval::Awaiting;
        }
        $ours = $this->numbering->document(
            $actor->companyId,
            $input->kind->prefix($input->side),
            $plan->postingDate->year,
        );
        $document->number = Side::Receivables === $input->side && '' !== $input->number ? $input->number : $ours;
        $document->theirNumber = Side::Payables === $input->side ? $input->number : '';
        $document->theirKey = LookAlikes::key($document->theirNumber);
        $document->liveKey = Side::Payables === $input->side ? mb_strtoupper($input->number) : null;
        $this->entities->persist($document);

        $position = 0;
        $lines = $taxes = $items = $discounts = [];
        foreach ($input->lines as $k => $line) {
            $lines[] = new DocumentLine(
                $document,
                ++$position,
                $line->accountId,
                $line->amount,
                $plan->tax->lineNets[$k],
                $line->taxCodeId,
                $line->text,
                $line->costCenterId,
                $line->departmentId,
                $line->projectId,
                $line->quantity,
                $line->price,
                $line->cost,
                $line->kind,
                $line->allowance,
            );
        }
        $ids = [];
        foreach ($input->lines as $line) {
            $ids[] = $line->taxCodeId;
        }
        foreach (array_unique(array_filter($ids)) as $id) {
            $record = $this->codes->taxCodes($actor->companyId)[$id] ?? null;
            $t = null === $record ? null : $plan->tax->taxes[$record->code];
            if (null !== $t) {
                $taxes[] = new DocumentTax($document, $id, $t->net, $t->tax, $t->recoverable);
            }
        }
        if (0 !== $total) {
            $bases = Shares::split($plan->base, array_map(static fn ($p): int => $p->amount, $plan->parts));
            foreach ($plan->parts as $k => $part) {
                $number = 1 === \count($plan->parts) ? $document->number : $document->number.'/'.($k + 1);
                $item = new OpenItemRecord(
                    $actor->companyId,
                    $input->side,
                    (int) $input->partyId,
                    $document,
                    $k + 1,
                    $input->kind,
                    $number,
                    $plan->controlId,
                    $input->currency,
                    $sign * $part->amount,
                    $sign * $bases[$k],
                    $sign * $part->amount,
                    $sign * $bases[$k],
                    $part->discountBase,
                    $plan->graceDays,
                    $plan->documentDate,
                    $plan->postingDate,
                    $part->due,
                );
                $items[] = $item;
                foreach ($part->discounts as $discount) {
                    $discounts[] = new ItemDiscount(
                        $item,
                        $discount->through,
                        (string) $discount->percent,
                        $discount->amount,
                    );
                }
            }
        }
        $this->entities->flush();
        foreach ([$lines, $taxes, $items, $discounts] as $records) {
            $this->bulk->insert($records);
        }
        if (!$plan->entry->isEmpty()) {
            $this->ledger->write(
                $actor,
                new EntryOrder(
                    $plan->entry,
                    $plan->postingDate,
                    trim($document->number.' '.$document->theirNumber),
                    [$input->side],
                    Source::document($document->id()),
                ),
            );
        }
        $this->history->note(
            $actor,
            'document',
            $document->id(),
            'posted',
            \sprintf('%s %s', Money::of($total, $input->currency)->decimal(), $input->currency),
        );
        if ('' !== $document->lookAlikeReason) {
            $this->history->note(
                $actor,
                'document',
                $document->id(),
                'not the one it looks like',
                $document->lookAlikeReason,
            );
        }
        foreach ($input->papers as $paper) {
            $this->files->give($actor, 'paper', $paper, $document->id());
        }
        if (null !== $input->againstId) {
            $this->settleCredit->settle($actor, $document->id(), $input->againstId, $plan->postingDate, $plan->rate);
        }
        $this->entities
            ->getConnection()
            ->executeStatement('UPDATE party SET last_used_at = ? WHERE id = ?', [
                $this->clock->now()->format('Y-m-d H:i:s'),
                $input->partyId,
            ]);

        return $document->id();
    }
}
