<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\Exception\UniqueConstraintViolationException;
use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Approval;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\DocumentBook;
use Nelbix\App\Books\DocumentDraft;
use Nelbix\App\Books\DocumentLine;
use Nelbix\App\Books\DocumentState;
use Nelbix\App\Books\DocumentTax;
use Nelbix\App\Books\ItemDraft;
use Nelbix\App\Books\SettleNamedCredit;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Goods\AwaitedBook;
use Nelbix\App\Goods\Awaiting;
use Nelbix\App\Goods\GoodsBook;
use Nelbix\App\Goods\MoveKind;
use Nelbix\App\Goods\Taken;
use Nelbix\App\People\SomebodyElse;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Money\Shares;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Nelbix\Core\Terms\ScheduledPart;
use Psr\Clock\ClockInterface;

/** Posts invoices, credit notes, debit notes and finance charges of either side: document, open items, journal entry, or nothing. */
final readonly class PostInvoice
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private CheckInvoice $check,
        private TakenNumbers $numbers,
        private DocumentBook $documents,
        private Settings $settings,
        private History $history,
        private ClockInterface $clock,
        private SettleNamedCredit $settleCredit,
        private FileStore $files,
        private CodeBook $codes,
        private GoodsBook $goods,
        private CompareMatch $compare,
        private AwaitedBook $awaited,
        private ReplaceClaim $claims,
        private SomebodyElse $somebodyElse,
    ) {
    }

    /**
     * @param FormKey|null $form the same one twice makes one document
     * @param int|null $draftId the draft this was, which becomes the document
     * @param int|null $version of the draft on the page that it is posted from; null when there was no page
     *
     * @return int the document's id
     *
     * @throws Refused with every problem of the input
     */
    public function post(
        Actor $actor,
        InvoiceInput $input,
        ?FormKey $form = null,
        ?int $draftId = null,
        ?int $version = null,
    ): int {
        return $this->transaction->once(
            $actor,
            'invoice',
            $form,
            fn (): int => $this->postAll($actor, [new InvoiceToPost($input, $draftId, version: $version)])[0],
        );
    }

    /**
     * Posts many in one transaction and in few statements: all or none.
     *
     * @param non-empty-list<InvoiceToPost> $toPost
     *
     * @return non-empty-list<int> the documents' ids, in the same order
     *
     * @throws Refused with every problem of all of them
     */
    public function postAll(Actor $actor, array $toPost): array
    {
        $plans = $problems = [];
        $along = new PostedAlong(\count($toPost) > 1 ? $this->numbers->of($actor, $toPost) : null);
        foreach ($toPost as $n => $one) {
            try {
                $plans[$n] = $this->check->plan($actor, $one, $along);
            } catch (Refused $e) {
                array_push($problems, ...$e->problems);
            }
        }
        if ([] !== $problems) {
            throw Refused::all($problems);
        }

        return $this->postPlanned($actor, $toPost, $plans);
    }

    /**
     * The same for what CheckInvoice has planned already, just now.
     *
     * @param non-empty-list<InvoiceToPost> $toPost
     * @param array<int, InvoicePlan> $plans
     *
     * @return non-empty-list<int>
     *
     * @throws Refused when somebody else was first
     */
    public function postPlanned(Actor $actor, array $toPost, array $plans): array
    {
        try {
            return $this->transaction->run(fn (): array => $this->write($actor, $toPost, $plans));
        } catch (UniqueConstraintViolationException) {
            // somebody else was first in the meantime
            throw Refused::all($this->takenMeanwhile($actor, $toPost));
        }
    }

    /**
     * @param non-empty-list<InvoiceToPost> $toPost
     *
     * @return non-empty-list<Problem>
     */
    private function takenMeanwhile(Actor $actor, array $toPost): array
    {
        $problems = [];
        $along = new PostedAlong();
        foreach ($toPost as $one) {
            try {
                $this->check->plan($actor, $one, $along);
            } catch (Refused $e) {
                array_push($problems, ...$e->problems);
            }
        }

        return [] === $problems ? [CheckInvoice::taken($toPost[0]->input)->under($toPost[0]->prefix)] : $problems;
    }

    /**
     * @param non-empty-list<InvoiceToPost> $toPost
     * @param array<int, InvoicePlan> $plans
     *
     * @return non-empty-list<int>
     */
    private function write(Actor $actor, array $toPost, array $plans): array
    {
        $drafts = [];
        foreach ($toPost as $n => $one) {
            $drafts[] = $this->draft($actor, $one, $plans[$n]);
        }
        $written = $this->documents->writeAll($actor, $drafts);
        $ids = $said = $unlike = $parties = [];
        foreach ($written as $n => $w) {
            $input = $toPost[$n]->input;
            $ids[] = $id = $w->document->id();
            $said[$id] = \sprintf(
                '%s %s',
                Money::of($plans[$n]->tax->total(), $input->currency)->decimal(),
                $input->currency,
            );
            if ('' !== $w->document->lookAlikeReason) {
                $unlike[$id] = $w->document->lookAlikeReason;
            }
            $parties[(int) $input->partyId] = true;
        }
        $this->history->noteAll($actor, 'document', $said, 'posted');
        $this->history->noteAll($actor, 'document', $unlike, 'not the one it looks like');
        foreach ($written as $n => $w) {
            $this->follow($actor, $toPost[$n]->input, $plans[$n], $w->document);
        }
        $this->lastUsed(array_keys($parties));

        return $ids;
    }

    private function draft(Actor $actor, InvoiceToPost $toPost, InvoicePlan $plan): DocumentDraft
    {
        $document = $this->document($actor, $toPost, $plan);

        return new DocumentDraft(
            $document,
            $this->items($toPost->input, $plan),
            $plan->entry,
            $document->theirNumber,
            $this->lines($document, $toPost->input, $plan),
            $this->taxes($actor, $document, $toPost->input, $plan),
        );
    }

    private function document(Actor $actor, InvoiceToPost $toPost, InvoicePlan $plan): Document
    {
        $input = $toPost->input;
        $document =
            null === $toPost->draftId
                ? $this->documents->begin($actor, $input->side, $input->kind)
                : $this->claim($actor, $toPost, $toPost->draftId);
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
        $document->total = $plan->tax->total();
        $document->totalBase = $plan->base;
        $document->discountBase = $plan->discountBase;
        $document->description = $input->description;
        $document->reference = $input->theirOrder;
        $document->lookAlikeReason = $input->lookAlikeReason ?? '';
        $document->againstId = $input->againstId;
        $document->salesperson = $input->salesperson;
        $document->commissionPercent = $input->commissionPercent;
        $document->typed = $input->typed();
        $document->approval = $this->approval($actor, $input, $plan);
        if ([] !== $plan->mismatches) {
            $document->heldReason = Mismatch::summary($plan->mismatches);
            $document->heldFor = Document::MATCH;
        }
        $document->theirNumber = Side::Payables === $input->side ? $input->number : '';
        $document->theirKey = LookAlikes::key($document->theirNumber);
        $document->liveKey = Side::Payables === $input->side ? mb_strtoupper($input->number) : null;
        if (Side::Receivables === $input->side && '' !== $input->number) {
            $document->number = $document->liveNumber = $input->number;
        }

        return $document;
    }

    /** @throws Refused when somebody else posted or removed the draft meanwhile */
    private function claim(Actor $actor, InvoiceToPost $toPost, int $draftId): Document
    {
        $input = $toPost->input;
        $document = $toPost->locked ?? $this->entities->find(Document::class, $draftId, LockMode::PESSIMISTIC_WRITE);
        if (
            null === $document
            || $document->companyId !== $actor->companyId
            || DocumentState::Draft !== $document->state
            || $document->kind !== $input->kind
            || $document->side !== $input->side
        ) {
            throw Refused::because('', 'This draft was already posted or removed; look at the list of documents.');
        }
        if (null !== $toPost->version && $document->version !== $toPost->version) {
            throw Refused::because(
                '',
                'Somebody else saved this draft meanwhile; load it anew and look at it before it is posted.',
                ProblemKind::Taken,
            );
        }
        if ($document->createdById !== $actor->userId) {
            $this->somebodyElse->hadAHand($actor, 'document', $draftId);
        }
        $document->draftInput = null;
        $document->state = DocumentState::Posted;
        $document->postedAt = $this->clock->now();

        return $document;
    }

    /**
     * The debt exists, so a vendor invoice above the limit, or at a rate that is far off the table's, is posted at once; it is payable
     * when somebody else approves it.
     */
    private function approval(Actor $actor, InvoiceInput $input, InvoicePlan $plan): Approval
    {
        $limit = $this->settings->of($actor->companyId)->amount('invoice_approval_above', $actor->baseCurrency);

        return Side::Payables === $input->side
            && DocumentKind::Invoice === $input->kind
            && ($plan->worth > $limit || null !== $plan->farFrom)
            ? Approval::Awaiting
            : Approval::None;
    }

    /** @return list<DocumentLine> */
    private function lines(Document $document, InvoiceInput $input, InvoicePlan $plan): array
    {
        $lines = [];
        foreach ($input->lines as $k => $line) {
            $lines[] = new DocumentLine(
                $document,
                \count($lines) + 1,
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

        return $lines;
    }

    /** @return list<DocumentTax> */
    private function taxes(Actor $actor, Document $document, InvoiceInput $input, InvoicePlan $plan): array
    {
        $codes = $this->codes->taxCodes($actor->companyId);
        $ids = array_filter(array_map(static fn (LineInput $l): ?int => $l->taxCodeId, $input->lines));
        $taxes = [];
        foreach (array_unique($ids) as $id) {
            $tax = isset($codes[$id]) ? $plan->tax->taxes[$codes[$id]->code] : null;
            if (null !== $tax) {
                $taxes[] = new DocumentTax($document, $id, $tax->net, $tax->tax, $tax->recoverable);
            }
        }

        return $taxes;
    }

    /** @return list<ItemDraft> none for a total of zero */
    private function items(InvoiceInput $input, InvoicePlan $plan): array
    {
        if (0 === $plan->tax->total()) {
            return [];
        }
        $sign = $input->kind->itemSign($input->side);
        $bases = Shares::split($plan->base, array_map(static fn (ScheduledPart $p): int => $p->amount, $plan->parts));
        $items = [];
        foreach ($plan->parts as $k => $part) {
            $items[] = new ItemDraft(
                $input->side,
                (int) $input->partyId,
                $plan->controlId,
                $sign * $part->amount,
                $sign * $bases[$k],
                $part->due,
                $part->discountBase,
                $plan->graceDays,
                $part->discounts,
            );
        }

        return $items;
    }

    /** What follows a posted document: its papers go with it, a credit that names an invoice lowers it. */
    private function follow(Actor $actor, InvoiceInput $input, InvoicePlan $plan, Document $document): void
    {
        foreach ($input->papers as $paper) {
            $this->files->give($actor, 'paper', $paper, $document->id());
        }
        $taken = self::taken($input, $plan);
        if ([] !== $taken) {
            $this->goods->take($actor, MoveKind::Invoiced, $taken, $plan->postingDate, $document->id());
        }
        $awaiting = self::awaiting($input, $plan);
        if ([] !== $awaiting) {
            $this->awaited->wait($actor, $document->id(), $plan->postingDate, $awaiting);
        }
        if ([] !== $plan->mismatches) {
            $this->compare->keep($actor, $document->id(), $input, $plan);
        }
        if (null !== $input->againstId && !$this->claims->replace($actor, $input, $document->id())) {
            $this->settleCredit->settle($actor, $document->id(), $input->againstId, $plan->postingDate, $plan->rate);
        }
    }

    /** @return list<Taken> what its lines take of deliveries */
    private static function taken(InvoiceInput $input, InvoicePlan $plan): array
    {
        $taken = [];
        foreach (array_keys($input->lines) as $n => $k) {
            $line = $plan->matched[$k] ?? null;
            if (null !== $line) {
                $taken[] = new Taken($line->goods->id, $line->part, $n + 1, $line->cleared->variance);
            }
        }

        return $taken;
    }

    /** @return list<Awaiting> what its lines wait for, with what the entry says of it */
    private static function awaiting(InvoiceInput $input, InvoicePlan $plan): array
    {
        if ([] === $plan->awaited) {
            return [];
        }
        $control = $plan->awaited[array_key_first($plan->awaited)]->control;
        $nets = array_intersect_key($plan->tax->lineNets, $plan->awaited);
        $bases = Shares::split($plan->entry->movementOn($control), $nets);
        $awaiting = [];
        foreach (array_keys($input->lines) as $n => $k) {
            $line = $plan->awaited[$k] ?? null;
            if (null !== $line) {
                $awaiting[] = new Awaiting(
                    $line->goods->id,
                    $n + 1,
                    $line->quantity,
                    $line->control,
                    $line->variance,
                    $plan->tax->lineNets[$k],
                    $bases[$k],
                );
            }
        }

        return $awaiting;
    }

    /**
     * Pickers rank by it.
     *
     * @param list<int> $parties
     */
    private function lastUsed(array $parties): void
    {
        sort($parties);
        $this->entities
            ->getConnection()
            ->executeStatement('UPDATE party SET last_used_at = ? WHERE id IN ('.implode(',', $parties).')', [
                $this->clock->now()->format('Y-m-d H:i:s'),
            ]);
    }
}
