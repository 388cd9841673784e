<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\Lookup;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\SettleItems;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;

/** Settlements without money from files: credits and prepayments against what is owed. */
final readonly class SettlementImporter implements CsvImporter
{
    public function __construct(private Lookup $lookup, private SettleItems $settleItems)
    {
    }

    public function kinds(): array
    {
        return ['settlements'];
    }

    public function required(string $kind): array
    {
        return ['settlement', 'party', 'side', 'date', 'document', 'applied'];
    }

    public function optional(string $kind): array
    {
        return ['discount', 'write_off', 'look_alike_reason'];
    }

    public function key(string $kind): array
    {
        return ['settlement'];
    }

    public function together(string $kind): array
    {
        return ['side', 'party'];
    }

    public function take(Actor $actor, string $kind, array $rows, bool $approved): array
    {
        $problems = new ProblemList();
        $first = $rows[0];
        $side = Side::tryFrom($first['side']);
        if (null === $side) {
            $problems->add('side', 'The side is payables or receivables.');
        }
        $party =
            null === $side
                ? null
                : $problems->attempt(
                    fn () => $this->lookup->party($actor->companyId, $side, $first['party']),
                    'lines.0.',
                );
        $day = $problems->attempt(static fn (): Day => Day::of($first['date']), 'lines.0.');
        $placements = $adjustments = [];
        SameOnAll::check($rows, ['party', 'side', 'date'], 'settlement', $problems);
        foreach ($rows as $k => $row) {
            if (null === $party || null === $side) {
                continue;
            }
            $item = $this->lookup->openItem($side, $party->id(), $row['document']);
            if (null === $item) {
                $problems->add(
                    'lines.'.$k.'.document',
                    \sprintf(
                        'There is no open item “%s” of this %s; give our number, or theirs, with /2 for the second instalment.',
                        mb_strimwidth($row['document'], 0, 40, '…'),
                        $side->partyWord(),
                    ),
                    ProblemKind::Unknown,
                );
                continue;
            }
            $columns = [
                'applied' => null,
                'discount' => AdjustmentKind::Discount,
                'write_off' => AdjustmentKind::WriteOff,
            ];
            foreach ($columns as $column => $adjustment) {
                $value =
                    '' === $row[$column] && null !== $adjustment
                        ? 0
                        : $problems->attempt(
                            static fn (): int => Money::parse($row[$column], $item['currency'], $column)->minor,
                            'lines.'.$k.'.',
                        ) ?? 0;
                if ($value < 0) {
                    $problems->add(
                        'lines.'.$k.'.'.$column,
                        'The amount is positive; the item’s own sign is known.',
                    );
                }
                if (null === $adjustment) {
                    $placements[] = new PlacementRequest($item['id'], $item['open'] < 0 ? -$value : $value);
                } elseif (0 !== $value) {
                    $adjustments[] = new AdjustmentRequest(
                        $item['id'],
                        $adjustment,
                        $item['open'] < 0 ? $value : -$value,
                    );
                }
            }
        }
        if ([] !== $problems->all || null === $party || null === $day || null === $side) {
            throw Refused::all(
                [] === $problems->all ? [new Problem('', 'The settlement cannot be read.')] : $problems->all,
            );
        }
        $settlement = $this->settleItems->settle(
            $actor,
            new SettlementRequest(
                $side,
                $placements,
                $adjustments,
                $day,
                null,
                null,
                null,
                'Settlement '.$first['settlement'],
            ),
            lookAlikeReason: mb_substr($first['look_alike_reason'], 0, 255),
        );

        return [$settlement];
    }
}
