<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Books\SettlementBook;
use Nelbix\App\Books\WrittenOffOf;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\People\Colleagues;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Ledger\TransferEntry;
use Nelbix\Core\Ledger\TransferLeg;
use Nelbix\Core\Money\Rounding;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Everything the board and its entry panel show for what is typed so far. */
final readonly class BoardView
{
    public function __construct(
        private BoardReader $reader,
        private PostMoney $postMoney,
        private SettlementBook $book,
        private Chart $chart,
        private BankAccounts $banks,
        private Colleagues $colleagues,
        private BoardColumns $columns,
        private WrittenOffOf $written,
        private PrepaymentRequests $requests,
        private CodeBook $codes,
        private Rates $rates,
        private GroupOfPayer $group,
    ) {
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array<string, mixed>
     */
    public function of(Desk $desk, Side $side, BoardMode $mode, array $raw): array
    {
        $board = $this->reader->read($desk, $side, $mode, $raw);
        $preview = null;
        $refusal = null;
        try {
            if (null !== $board->input && $board->amount > 0) {
                $preview = $this->postMoney->preview(
                    $desk->actor,
                    $board->input,
                    // in their own sign: a refund's board sees them from the other side
                    $mode->sign() > 0
                        ? $board->items
                        : array_map(static fn (OpenItem $i): OpenItem => $i->mirrored(), $board->items),
                );
            } elseif (null !== $board->request && [] !== $board->request->placements && 0 === $board->left()) {
                $preview = [
                    'money' => null,
                    'settlement' => $this->book->draft($desk->actor, $board->request, $board->items)->entry,
                ];
            }
        } catch (Refused $e) {
            $refusal = $e->getMessage();
        }
        $typed = array_filter($board->problems, static fn (Problem $p): bool => ProblemKind::Missing !== $p->kind);

        $shown = $this->columns->of($desk->actor, $raw);
        $prepaid = BoardMode::Receipt === $mode && 'prepayment' === ($board->form['kind'] ?? '');

        return [
            'board' => $board,
            'rows' => BoardColumns::sorted($board->rows, $shown['order']),
            'columns' => $shown['columns'],
            'order' => $shown['order'],
            'all_columns' => BoardColumns::COLUMNS,
            'orders' => BoardColumns::ORDERS,
            'side' => $side,
            'mode' => $mode,
            'form' => $board->form,
            'preview' => $preview,
            'refund' => null === $preview ? null : $this->refund($desk, $board),
            'exchange' => $this->exchange($desk, $preview),
            'refusal' => $refusal,
            'typed' => Screen::byField(array_values($typed)),
            'accounts' => $this->chart->accounts($desk->id()),
            'claim_kinds' => ClaimKind::chosen(),
            'errors' => [],
            'group' => BoardMode::Receipt === $mode && null !== $board->party && '' !== $board->party->partyGroup
                    ? $this->group->of($desk->id(), $board->party, $board->currency, $board->also)
                    : [],
            'allowance' => $this->chart->accountOf($desk->id(), AccountRole::BadDebtAllowance),
            'asked_for' => $prepaid && null !== $board->party && !$board->party->nobody
                    ? $this->requests->openOf($board->party->id(), $board->currency)
                    : [],
            'prepaid_codes' => $prepaid
                ? array_filter(
                    $this->codes->taxCodes($desk->id()),
                    static fn ($c): bool => $c->taxesPrepayments && !$c->retired,
                )
                : [],
            'debts' => BoardMode::Receipt === $mode && null !== $board->party && $board->left() > 0
                    ? $this->written->open($board->party->id(), $board->currency)
                    : [],
            'people' => BoardMode::Payment === $mode ? [] : $this->colleagues->of($desk->id()),
            'next_check' => 'print' === $board->input?->method ? $this->banks->nextCheck($board->input->bankAccountId) : null,
        ];
    }

    /** The entry by which what is left over is asked to be given back; null when it is not. */
    private function refund(Desk $desk, Board $board): ?JournalDraft
    {
        if (null === $board->input || null === $board->party || !$board->givesBack() || $board->left() <= 0) {
            return null;
        }
        $rate =
            $board->input->rate ??
            $this->rates->on($desk->id(), $board->currency, $desk->company->baseCurrency, $board->date);
        $base = InvoiceEntry::base($board->amount, $board->currency, $desk->company->baseCurrency, $rate);
        // what is left of the money's base when the rest of it was placed
        $left = $base - Rounding::proportion($base, $board->amount - $board->left(), $board->amount);
        $leg = static fn (Side $side, int $account): TransferLeg => new TransferLeg(
            $side,
            $account,
            $board->party->id(),
            $board->left(),
            $left,
        );

        return TransferEntry::draft(
            $board->currency,
            [
                $leg(
                    Side::Receivables,
                    $board->party->controlAccountId ?? $this->chart->role($desk->id(), AccountRole::Receivables),
                ),
                $leg(Side::Payables, $this->chart->role($desk->id(), AccountRole::RefundsPayable)),
            ],
            DocumentKind::RefundRequest->word(),
        );
    }

    /**
     * What the entries realise as an exchange difference, base minor units: a loss +, a gain −.
     *
     * @param array{money: ?JournalDraft, settlement: ?JournalDraft}|null $preview
     */
    private function exchange(Desk $desk, ?array $preview): int
    {
        if (null === $preview) {
            return 0;
        }
        $account = $this->chart->role($desk->id(), AccountRole::ExchangeRealised);

        return (int) $preview['money']?->movementOn($account) + (int) $preview['settlement']?->movementOn($account);
    }
}
