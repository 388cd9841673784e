<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/** Keeps an entry by hand as a draft, whole or not. Nothing is posted. */
final readonly class KeepManualEntry
{
    public function __construct(
        private Transaction $transaction,
        private ManualEntryBook $book,
        private JournalReader $reader,
    ) {
    }

    /**
     * @param array<mixed> $raw the form
     * @param int|null $there the draft that is changed; null for a new one
     *
     * @throws Refused when somebody changed it meanwhile
     */
    public function keep(Actor $actor, array $raw, ?int $there, int $version, ?FormKey $form = null): int
    {
        try {
            $input = $this->reader->read($actor, $raw);
        } catch (Refused) {
            $input = null; // what is not finished yet is kept as it is
        }

        return $this->transaction->once($actor, 'manual_draft', $form, function () use (
            $actor,
            $raw,
            $there,
            $version,
            $input,
        ): int {
            $entry = $this->book->draft($actor, $there, $version);
            $entry->form = $input->form ?? JournalReader::kept($raw);
            $entry->text = mb_substr(\is_string($raw['text'] ?? null) ? $raw['text'] : '', 0, 255);
            $entry->day = $input->day ?? $entry->day;
            $entry->amount = $input?->amount() ?? $entry->amount;

            return $this->book->stored($entry);
        });
    }
}
