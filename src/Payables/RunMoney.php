<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Brick\Math\BigDecimal;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Money\MoneyInput;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;

/**
 * A payment of a run as money that is posted: the one place that says what it is, for posting and for whoever looks at it before.
 *
 * @phpstan-import-type Row from PostRun
 */
final readonly class RunMoney
{
    /**
     * @param array<string, mixed> $payment
     * @param non-empty-list<Row> $lines
     *
     * @throws Refused when an item is not as it was when the proposal was made
     */
    public static function of(
        Proposal $proposal,
        array $payment,
        array $lines,
        string $reference,
        ?BigDecimal $rate = null,
    ): MoneyInput {
        $placements = $adjustments = [];
        foreach ($lines as $line) {
            if ($line['open'] !== $line['proposed']) {
                throw Refused::because(
                    '',
                    \sprintf(
                        '%s changed since the proposal was made; take its payment out of the run, and propose it again.',
                        $line['number'],
                    ),
                );
            }
            $placements[] = new PlacementRequest($line['id'], $line['applied']);
            foreach (
                [[AdjustmentKind::Discount, $line['discount']], [AdjustmentKind::Withholding, $line['withholding']]] as [$kind, $part]
            ) {
                if (0 !== $part) {
                    $adjustments[] = new AdjustmentRequest($line['id'], $kind, -$part);
                }
            }
        }
        // what a transfer left to pay, a refund, is paid on its own account
        $transferred = DocumentKind::from($lines[0]['kind'])->isTransfer();

        return new MoneyInput(
            Side::Payables,
            DocumentKind::Payment,
            (int) $payment['party_id'],
            $proposal->bankAccountId,
            $proposal->payDate,
            $lines[0]['currency'],
            array_sum(array_column($lines, 'pay')),
            $reference,
            PayBy::from((string) $payment['pay_by'])->value,
            $placements,
            $adjustments,
            $rate,
            $proposal->id,
            $transferred ? $lines[0]['account_id'] : null,
        );
    }
}
