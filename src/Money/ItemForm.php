<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Books\GivenUp;
use Nelbix\App\Books\Lookup;
use Nelbix\App\Books\OpenItemRecord;
use Nelbix\App\Books\SettlementBook;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Calendar\FarDay;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;

/** Reads what was typed of an item's action, shows what it would post, and does it. */
final readonly class ItemForm
{
    public function __construct(
        private BooksDay $booksDay,
        private Lookup $lookup,
        private Chart $chart,
        private MakeClaim $makeClaim,
        private WriteOff $writeOff,
        private GivenUp $givenUp,
        private HandOver $handOver,
        private MovePrepayment $movePrepayment,
        private SettlementBook $book,
        private Transaction $transaction,
    ) {
    }

    /**
     * @param array<mixed> $raw amount, date, reason; of a claim kind, person, follow_up; of a write-off account; of a hand-over party
     *
     * @return array{?int, string} the document that it made, if it did, and what happened
     *
     * @throws Refused
     */
    public function do(Desk $desk, OpenItemRecord $item, ItemAction $action, array $raw, ?FormKey $form): array
    {
        $text = (new Fields($raw))->text(...);
        [$amount, $date] = [$this->amount($item, $text('amount')), $this->date($desk, $text('date'))];
        $why = mb_substr($text('reason'), 0, 255);
        $words = Typography::amount($amount, $item->currency).' '.$item->currency;

        if (ItemAction::WriteOff === $action) {
            return $this->written($desk, $item, $amount, $date, $text, $why, $form, $words);
        }
        // a page that is sent twice leads to what it made
        $document = $this->transaction->once(
            $desk->actor,
            'item',
            $form,
            fn (): int => match ($action) {
                ItemAction::Claim => $this->makeClaim->make(
                    $desk->actor,
                    $this->claim($desk, $item, $amount, $text),
                    $date,
                ),
                ItemAction::HandOver => $this->handOver->to(
                    $desk->actor,
                    $item->id(),
                    $this->lookup->party($desk->id(), $item->side, $text('party')),
                    $amount,
                    $date,
                    $why,
                ),
                ItemAction::Prepayment => $this->movePrepayment->move($desk->actor, $item->id(), $amount, $date, $why),
            },
        );

        return [
            $document,
            match ($action) {
                ItemAction::Claim => \sprintf('%s of %s is a claim.', $words, $item->number),
                ItemAction::HandOver => \sprintf('%s of %s is handed over.', $words, $item->number),
                ItemAction::Prepayment => '',
            },
        ];
    }

    /**
     * @param array<mixed> $raw
     *
     * @return JournalDraft|null null where nothing is posted: a claim stays on its account
     *
     * @throws Refused as doing it would
     */
    public function preview(Desk $desk, OpenItemRecord $item, ItemAction $action, array $raw): ?JournalDraft
    {
        $text = (new Fields($raw))->text(...);
        [$amount, $date] = [$this->amount($item, $text('amount')), $this->date($desk, $text('date'))];

        return match ($action) {
            ItemAction::Claim => null,
            ItemAction::HandOver => $this->handOver->preview(
                $desk->actor,
                $item,
                $this->lookup->party($desk->id(), $item->side, $text('party')),
                $amount,
                $date,
            ),
            ItemAction::Prepayment => $this->movePrepayment->preview($desk->actor, $item, $amount, $date),
            ItemAction::WriteOff => $this->book->draft(
                $desk->actor,
                $this->writeOff->request(
                    [$item->id() => $item->item()],
                    [$item->id() => $amount],
                    $this->as($text),
                    $this->account($desk, $text),
                    $date,
                    $text('reason'),
                ),
                [$item->id() => $item->item()],
            )->entry,
        };
    }

    /**
     * What the write-off comes to when it is more than one person may let go alone, base minor units; null when it is not.
     *
     * @param array<mixed> $raw
     */
    public function waits(Desk $desk, OpenItemRecord $item, ItemAction $action, array $raw): ?int
    {
        if (ItemAction::WriteOff !== $action) {
            return null;
        }
        $text = (new Fields($raw))->text(...);
        try {
            $worth = $this->writeOff->worth(
                $desk->actor,
                [$item->id() => $item->item()],
                [$item->id() => $this->amount($item, $text('amount'))],
                $this->date($desk, $text('date')),
            );
        } catch (Refused) {
            return null;
        }

        return $worth + $this->givenUp->before([$item->id()]) > $this->givenUp->limit($desk->actor)
            ? $this->givenUp->limit($desk->actor)
            : null;
    }

    /**
     * @param \Closure(string): string $text
     *
     * @return array{?int, string}
     */
    private function written(
        Desk $desk,
        OpenItemRecord $item,
        int $amount,
        Day $date,
        \Closure $text,
        string $why,
        ?FormKey $form,
        string $words,
    ): array {
        $made = $this->writeOff->write(
            $desk->actor,
            [$item->id() => $amount],
            $this->as($text),
            $this->account($desk, $text),
            $date,
            $why,
            $form,
        );

        return match (true) {
            [] !== $made['claims'] => [
                $made['claims'][0],
                \sprintf('%s of %s waits as a claim until somebody else approves.', $words, $item->number),
            ],
            null === $made['settlement'] => [null, 'It was written off already; this page was sent twice.'],
            default => [
                null,
                \sprintf('%s of %s is written off: %s.', $words, $item->number, $this->as($text)->word()),
            ],
        };
    }

    /** @param \Closure(string): string $text */
    private function claim(Desk $desk, OpenItemRecord $item, int $amount, \Closure $text): ClaimRequest
    {
        return new ClaimRequest(
            $item->id(),
            $amount,
            ClaimKind::tryFrom($text('kind')) ?? ClaimKind::Disputed,
            mb_substr($text('reason'), 0, 255),
            $text('person'),
            '' === $text('follow_up')
                ? null
                : $this->booksDay->input($desk->id())->read($text('follow_up'), 'follow_up'),
        );
    }

    /** @param \Closure(string): string $text */
    private function as(\Closure $text): AdjustmentKind
    {
        return '' === $text('account') || 'allowance' === $text('to')
            ? AdjustmentKind::BadDebt
            : AdjustmentKind::Account;
    }

    /** @param \Closure(string): string $text */
    private function account(Desk $desk, \Closure $text): ?int
    {
        return match (true) {
            'allowance' === $text('to') => $this->chart->role($desk->id(), AccountRole::BadDebtAllowance),
            '' === $text('account') => null,
            default => $this->chart->ofLine($desk->id(), $text('account'), 'account'),
        };
    }

    private function amount(OpenItemRecord $item, string $typed): int
    {
        return AmountInput::read($typed, Currency::of($item->currency), 'amount')->minor;
    }

    private function date(Desk $desk, string $typed): Day
    {
        $day = '' === $typed ? $desk->today : $this->booksDay->input($desk->id())->read($typed, 'date');
        if (FarDay::is($day, $desk->today)) {
            throw Refused::because(
                'date',
                \sprintf('%s is far from today, %s; date it nearer.', $day->long(), $desk->today->long()),
            );
        }

        return $day;
    }
}
