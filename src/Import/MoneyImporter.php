<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Brick\Math\BigDecimal;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\Lookup;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Money\Answers;
use Nelbix\App\Money\MoneyInput;
use Nelbix\App\Money\PostMoney;
use Nelbix\App\Parties\Nobody;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;

/** Receipts and payments from files, with what they are placed on. */
final readonly class MoneyImporter implements CsvImporter
{
    public function __construct(
        private Lookup $lookup,
        private PostMoney $postMoney,
        private BankAccounts $banks,
        private Nobody $nobody,
    ) {
    }

    public function kinds(): array
    {
        return ['receipts', 'payments'];
    }

    public function required(string $kind): array
    {
        return ['party', 'date', 'bank', 'currency', 'amount'];
    }

    public function optional(string $kind): array
    {
        return [
            'method',
            'number',
            'reference',
            'rate',
            'apply_to',
            'applied',
            'discount',
            'write_off',
            'withholding',
            'certificate',
            'kind',
            'look_alike_reason',
        ];
    }

    public function key(string $kind): array
    {
        return ['party', 'date', 'bank', 'reference', 'number'];
    }

    public function together(string $kind): array
    {
        return ['party'];
    }

    public function take(Actor $actor, string $kind, array $rows, bool $approved): array
    {
        $side = 'receipts' === $kind ? Side::Receivables : Side::Payables;
        $problems = new ProblemList();
        $first = $rows[0];
        $party = $problems->attempt(
            fn () => Nobody::CODE === $first['party'] && Side::Receivables === $side
                ? $this->nobody->of($actor->companyId)
                : $this->lookup->party($actor->companyId, $side, $first['party']),
            'lines.0.',
        );
        $day = $problems->attempt(static fn (): Day => Day::of($first['date']), 'lines.0.');
        $bank = $problems->attempt(fn (): BankRow => $this->banks->named($actor->companyId, $first['bank']));
        $currency =
            $problems->attempt(static fn (): string => Currency::of($first['currency'])->code, 'lines.0.') ??
            $actor->baseCurrency;
        $amount = $problems->attempt(static fn (): int => Money::parse($first['amount'], $currency)->minor, 'lines.0.');
        $rate =
            '' === $first['rate']
                ? null
                : $problems->attempt(static fn (): BigDecimal => InvoiceReader::rate($first['rate']), 'lines.0.');
        $money = '' === $first['kind'] ? ('receipts' === $kind ? 'receipt' : 'payment') : $first['kind'];
        if (
            !\in_array(
                $money,
                'receipts' === $kind ? ['receipt', 'payment', 'prepayment'] : ['payment', 'prepayment'],
                true,
            )
        ) {
            $problems->add('kind', 'The kind is payment or prepayment.');
        }
        $placements = [];
        $adjustments = [];
        SameOnAll::check($rows, ['amount', 'currency', 'rate', 'kind', 'method'], substr($kind, 0, -1), $problems);
        foreach ($rows as $k => $row) {
            if ('' === $row['apply_to']) {
                continue;
            }
            $item =
                null === $party
                    ? null
                    : $problems->attempt(
                        fn (): array => $this->item($side, $party->id(), $row['apply_to']),
                        'lines.'.$k.'.',
                    );
            $applied = $problems->attempt(
                static fn (): int => Money::parse($row['applied'], $currency, 'applied')->minor,
                'lines.'.$k.'.',
            );
            if (null === $item || null === $applied) {
                continue;
            }
            // credits used count negative, as the item's own sign has them
            $placements[] = new PlacementRequest($item['id'], $item['open'] < 0 ? -abs($applied) : $applied);
            foreach (
                [
                    'discount' => AdjustmentKind::Discount,
                    'write_off' => AdjustmentKind::WriteOff,
                    'withholding' => AdjustmentKind::Withholding,
                ] as $column => $adjustment
            ) {
                $value =
                    '' === $row[$column]
                        ? 0
                        : $problems->attempt(
                            static fn (): int => Money::parse($row[$column], $currency, $column)->minor,
                            'lines.'.$k.'.',
                        ) ?? 0;
                if (0 !== $value) {
                    $adjustments[] = new AdjustmentRequest(
                        $item['id'],
                        $adjustment,
                        -$value,
                        reason: AdjustmentKind::Withholding === $adjustment
                            ? mb_substr($row['certificate'], 0, 255)
                            : '',
                    );
                }
            }
        }
        if ([] !== $problems->all || null === $party || null === $day || null === $amount || null === $bank) {
            throw Refused::all([] === $problems->all ? [new Problem('', 'The row cannot be read.')] : $problems->all);
        }
        $document = $this->postMoney->post(
            $actor,
            new MoneyInput(
                $side,
                'prepayment' === $money
                    ? DocumentKind::Prepayment
                    : (Side::Receivables === $side
                        ? DocumentKind::Receipt
                        : DocumentKind::Payment),
                $party->id(),
                $bank->id,
                $day,
                $currency,
                $amount,
                trim($first['reference'].' '.$first['number']),
                $first['method'],
                $placements,
                $adjustments,
                $rate,
                answers: new Answers(mb_substr($first['look_alike_reason'], 0, 255), true, true, true),
            ),
        );

        return [$document];
    }

    /** @return array{id: int, open: int, currency: string} */
    private function item(Side $side, int $partyId, string $name): array
    {
        return $this->lookup->openItem($side, $partyId, $name) ??
            throw Refused::because(
                'apply_to',
                \sprintf(
                    'There is no open item “%s” of this %s; give our number, or theirs, with /2 for the second instalment.',
                    mb_strimwidth($name, 0, 40, '…'),
                    $side->partyWord(),
                ),
                ProblemKind::Unknown,
            );
    }
}
