<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Bank\BankRow;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\WrittenOff;
use Nelbix\App\Books\WrittenOffOf;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;
use Nelbix\Core\Settlement\Recovery;

/** Reads the money of a board: how it came or goes, its two amounts, and where what is left over of it goes. */
final readonly class BoardMoney
{
    public function __construct(
        private Chart $chart,
        private Rates $rates,
        private AtTheBank $atTheBank,
        private CodeBook $codes,
        private WrittenOffOf $writtenOff,
        private Settings $settings,
    ) {
    }

    /** @param \Closure(string): string $text what stands in a field of the form */
    public function input(
        Desk $desk,
        Side $side,
        BoardMode $mode,
        Party $party,
        BankRow $bank,
        Day $date,
        string $currency,
        int $amount,
        BoardPlacing $placing,
        \Closure $text,
        ProblemList $problems,
    ): MoneyInput {
        if (BoardMode::Payment === $mode && 'hand' === $text('method') && '' === $text('number')) {
            $problems->add(
                'number',
                'The number of the check is missing; type what stands on it.',
                ProblemKind::Missing,
            );
        }
        if (mb_strlen($text('their_reference')) > 60) {
            $problems->add('their_reference', 'A reference of the bank has at most 60 characters; shorten it.');
        }
        $number = \in_array($text('method'), ['print'], true) ? '' : $text('number').' ';
        $prepaid = 'prepayment' === $text('kind');

        return new MoneyInput(
            $side,
            $mode->kind($prepaid && [] === $placing->placements),
            $party->id(),
            $bank->id,
            $date,
            $currency,
            $amount,
            mb_substr(trim($number.$text('reference')), 0, 120),
            Method::chosen($mode, $text('method'))->value,
            $placing->placements,
            $placing->adjustments,
            answers: new Answers(
                mb_substr($text('look_alike_reason'), 0, 255),
                '' !== $text('day_meant'),
                '' !== $text('more_than_there'),
                '' !== $text('more_than_owed'),
            ),
            theirReference: BoardMode::Payment === $mode ? '' : $text('their_reference'),
            restIsPrepayment: $prepaid && [] !== $placing->placements,
            bankAmount: $bank->currency === $currency
                ? null
                : self::typed($text('bank_amount'), $mode, $bank->currency, 'bank_amount', $problems),
            receiptBatchId: BoardMode::Receipt === $mode && ctype_digit($text('batch')) ? (int) $text('batch') : null,
            prepaidTaxCode: BoardMode::Receipt === $mode && $prepaid
                ? $this->taxCode($desk, $text('kind_tax'), $problems)
                : null,
            restTo: BoardMode::Receipt === $mode && 'account' === $text('kind')
                ? $this->restTo($desk, $text, $problems)
                : null,
            recovers: BoardMode::Receipt === $mode && 'recovered' === $text('kind')
                ? $this->recovers($desk, $party, $currency, $amount - $placing->comesTo(), $text, $problems)
                : [],
        );
    }

    private function taxCode(Desk $desk, string $typed, ProblemList $problems): ?int
    {
        return '' === $typed
            ? null
            : $problems->attempt(
                fn (): ?int => $this->codes->taxCode($desk->id(), Side::Receivables, $typed, 'kind_tax')?->id(),
            );
    }

    /** @param \Closure(string): string $text */
    private function restTo(Desk $desk, \Closure $text, ProblemList $problems): ?AdjustmentRequest
    {
        $account = $problems->attempt(
            fn (): int => $this->chart->ofLine($desk->id(), $text('kind_account'), 'kind_account'),
        );
        if ('' === $text('kind_reason')) {
            $problems->add('kind_reason', 'Say why what is left over goes to that account.', ProblemKind::Missing);
        }

        return null === $account
            ? null
            : new AdjustmentRequest(0, AdjustmentKind::Account, 0, $account, mb_substr($text('kind_reason'), 0, 255));
    }

    /**
     * Debts that were written off and that the rest of the money is for: the one that is named first, then the oldest.
     *
     * @param \Closure(string): string $text
     *
     * @return list<AdjustmentRequest>
     */
    private function recovers(
        Desk $desk,
        Party $party,
        string $currency,
        int $rest,
        \Closure $text,
        ProblemList $problems,
    ): array {
        if ('' === $text('kind_reason')) {
            $problems->add('kind_reason', 'Say what it came from; the history keeps your words.', ProblemKind::Missing);
        }
        $debts = $this->writtenOff->open($party->id(), $currency);
        $back = 'allowance' === $this->settings->of($desk->id())->values['recoveries'];
        $requests = [];
        foreach (
            Recovery::share(
                max(0, $rest),
                array_map(static fn (WrittenOff $w): int => $w->left(), $debts),
                ctype_digit($text('kind_debt')) ? (int) $text('kind_debt') : null,
            ) as $id => $share
        ) {
            $requests[] = new AdjustmentRequest(
                0,
                AdjustmentKind::Recovery,
                $share,
                $this->chart->role($desk->id(), Recovery::role($debts[$id]->fromAllowance, $back)),
                mb_substr($text('kind_reason'), 0, 255),
                $id,
            );
        }

        if ([] === $requests && $rest > 0) {
            $problems->add(
                'kind',
                'Nothing of this customer was written off that is not recovered by now; leave the rest unapplied.',
            );
        }

        return $requests;
    }

    /** What the money does to its bank account; the amounts are null where they are not known, or the currency is the same. */
    public function bankSide(Desk $desk, MoneyInput $input, BankRow $bank): BankSide
    {
        if ($bank->currency === $input->currency || 0 === $input->amount) {
            return new BankSide($bank->currency, null, null);
        }

        try {
            $rate = $this->rates->on($desk->id(), $input->currency, $desk->company->baseCurrency, $input->date);
            $base = InvoiceEntry::base($input->amount, $input->currency, $desk->company->baseCurrency, $rate);
            $account = $this->atTheBank->account($desk->actor, $input);
            $table = $this->atTheBank->moved($desk->actor, $input->atTable(), $account, $base);

            return new BankSide($bank->currency, $input->bankAmount ?? $table['amount'], $table['amount']);
        } catch (Refused) {
            // said where the entry would stand
            return new BankSide($bank->currency, $input->bankAmount, null);
        }
    }

    /** Minor units of what was typed; null for nothing, 0 for what cannot be read, which is named. */
    public static function typed(
        string $typed,
        BoardMode $mode,
        string $currency,
        string $field,
        ProblemList $problems,
    ): ?int {
        return '' === $typed || !$mode->hasMoney()
            ? null
            : $problems->attempt(
                static fn (): int => AmountInput::read($typed, Currency::of($currency), $field)->minor,
            ) ?? 0;
    }
}
