<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Nelbix\App\Bank\BankRow;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Money\Answers;
use Nelbix\App\Money\MoneyInput;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Statement\StatementLine;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;

/** The receipt, payment or refund that a line of a statement is, with the items that it settles. */
final class LineMoney
{
    /** What banks write where they have no reference. */
    private const NO_REFERENCE = '/\A(?:NONREF|NOTPROVIDED|0*)\z/i';

    /**
     * @param string $lookAlike why it is not the one it looks like
     *
     * @throws Refused when a customer would be paid: that needs a refund and its approval
     */
    public static function of(
        BankRow $bank,
        Day $day,
        string $text,
        string $bankReference,
        Choice $choice,
        string $lookAlike,
    ): MoneyInput {
        $side = $choice->side ?? throw Refused::because('', 'Choose whose money it is.');
        $in = $choice->amount > 0;
        if (!$in && Side::Receivables === $side) {
            throw Refused::because(
                '',
                'Money that went back to a customer is a refund: ask for it on the credit, pay it, and join the line with the payment.',
            );
        }
        $kind = match (true) {
            Side::Receivables === $side => DocumentKind::Receipt,
            $in => DocumentKind::Refund,
            default => DocumentKind::Payment,
        };
        $currency = '' === $choice->currency ? $bank->currency : $choice->currency;
        $moved = abs($choice->amount);
        $placements = $adjustments = [];
        foreach ($choice->items as [$item, $gross, $discount, $charge]) {
            $placements[] = new PlacementRequest($item, $gross);
            if (0 !== $discount) {
                $adjustments[] = new AdjustmentRequest($item, AdjustmentKind::Discount, -$discount);
            }
            if (0 !== $charge) {
                $adjustments[] = new AdjustmentRequest($item, AdjustmentKind::BankCharge, -$charge);
            }
        }

        return new MoneyInput(
            $side,
            $kind,
            $choice->party,
            $bank->id,
            $day,
            $currency,
            $currency === $bank->currency ? $moved : $choice->money,
            mb_substr($text, 0, 120),
            'transfer',
            $placements,
            $adjustments,
            // the bank has moved it already, so neither its day nor the balance can be in question
            answers: new Answers($lookAlike, true, true, true),
            theirReference: 1 === preg_match(self::NO_REFERENCE, $bankReference)
                ? ''
                : mb_substr($bankReference, 0, 60),
            bankAmount: $currency === $bank->currency ? null : $moved,
        );
    }

    /** What stands on a line, as one text. */
    public static function text(StatementLine|Line $line): string
    {
        return trim('' === $line->text ? $line->party : $line->text);
    }
}
