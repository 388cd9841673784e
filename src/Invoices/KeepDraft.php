<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\DocumentBook;
use Nelbix\App\Books\DocumentState;
use Nelbix\App\Parties\Party;
use Nelbix\App\People\SomebodyElse;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Keeps an unfinished invoice as it was typed, however incomplete; or throws a draft away. Drafts never touch the books. */
final readonly class KeepDraft
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private InvoiceReader $reader,
        private InvoicePlanner $planner,
        private History $history,
        private DocumentBook $documents,
        private FileStore $files,
        private SomebodyElse $somebodyElse,
    ) {
    }

    /**
     * @param array<mixed> $raw the form as it was typed
     * @param int|null $version of the draft as it was loaded
     *
     * @throws Refused when somebody else saved or posted it meanwhile
     */
    public function keep(Actor $actor, Side $side, array $raw, ?int $draftId = null, ?int $version = null): Document
    {
        return $this->transaction->run(function () use ($actor, $side, $raw, $draftId, $version): Document {
            $input = $this->reader->read($actor, $side, $raw);
            $document =
                null === $draftId
                    ? $this->documents->begin($actor, $side, $input->kind, DocumentState::Draft)
                    : $this->draft($actor, $side, $draftId);
            if (null !== $version && $document->version !== $version) {
                throw Refused::because(
                    '',
                    'Somebody else saved this draft meanwhile; load it anew and enter your change again.',
                );
            }
            $before = null === $draftId ? [] : $this->words($document);
            $document->partyId = $input->partyId;
            $document->theirNumber = $input->number;
            $document->theirKey = LookAlikes::key($input->number);
            $document->documentDate = $input->documentDate;
            $document->postingDate = $input->postingDate;
            $document->dueDate = $input->dueDate;
            $document->currency = $input->currency;
            $document->description = $input->description;
            $document->draftInput = self::textOnly($raw);
            if (\is_string($raw['batch'] ?? null)) {
                $batch = $this->entities
                    ->getConnection()
                    ->fetchOne(
                        'SELECT id FROM batch WHERE id = ? AND company_id = ? AND side = ? AND posted_at IS NULL',
                        [(int) $raw['batch'], $actor->companyId, $side->value],
                    );
                $document->batchId =
                    false === $batch
                        ? throw Refused::because(
                            '',
                            'There is no such open batch; keep it as a draft of its own.',
                            ProblemKind::Unknown,
                        )
                        : (int) $batch;
            }
            try {
                $document->total = $this->planner->plan($actor, $input)->tax->total();
            } catch (Refused) {
                $document->total = 0;
            }
            $this->entities->persist($document);
            $this->entities->flush();
            foreach ($input->papers as $paper) {
                $this->files->give($actor, 'paper', $paper, $document->id());
            }
            if (null === $draftId) {
                $this->history->note($actor, 'document', $document->id(), 'draft saved');
            } else {
                // whoever changed it had a hand in it, and does not approve what becomes of it
                $this->somebodyElse->hadAHand($actor, 'document', $draftId);
                $this->history->change($actor, 'document', $draftId, $before, $this->words($document));
            }

            return $document;
        });
    }

    /** @return array<string, string> what a draft says, for the history */
    private function words(Document $document): array
    {
        $party = null === $document->partyId ? null : $this->entities->find(Party::class, $document->partyId);

        return [
            'party' => $party->code ?? '',
            'their number' => $document->theirNumber,
            'dated' => $document->documentDate?->long() ?? '',
            'posted on' => $document->postingDate?->long() ?? '',
            'due' => $document->dueDate?->long() ?? '',
            'total' => Money::decimalOf($document->total, Currency::of($document->currency)->digits).
                ' '.
                $document->currency,
            'text' => $document->description,
        ];
    }

    public function discard(Actor $actor, Side $side, int $draftId): void
    {
        $this->transaction->run(function () use ($actor, $side, $draftId): void {
            $this->entities->remove($this->draft($actor, $side, $draftId));
        });
    }

    private function draft(Actor $actor, Side $side, int $id): Document
    {
        $document = $this->entities->find(Document::class, $id, LockMode::PESSIMISTIC_WRITE);

        return null !== $document
            && $document->companyId === $actor->companyId
            && $document->side === $side
            && DocumentState::Draft === $document->state
            ? $document
            : throw Refused::because('', 'This draft was already posted or removed.');
    }

    /**
     * Only strings are kept, shortened and at most three levels deep: what a form can hold.
     *
     * @param array<mixed> $raw
     *
     * @return array<mixed>
     */
    private static function textOnly(array $raw, int $depth = 0): array
    {
        $kept = [];
        foreach (\array_slice($raw, 0, 600, true) as $key => $value) {
            if (\is_array($value) && $depth < 3) {
                $kept[$key] = self::textOnly($value, $depth + 1);
            } elseif (\is_string($value) && '_' !== ((string) $key)[0]) {
                $kept[$key] = mb_substr($value, 0, 300);
            }
        }

        return $kept;
    }
}
