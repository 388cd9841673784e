<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;

/** Write-offs stay within the company's tolerance here; larger ones need an approver and a reason. */
final readonly class SmallDifferences
{
    public function __construct(private Connection $db, private Settings $settings)
    {
    }

    /**
     * @param list<AdjustmentRequest> $adjustments
     *
     * @throws Refused over the tolerance
     */
    public function check(Actor $actor, array $adjustments): void
    {
        foreach ($adjustments as $a) {
            if (AdjustmentKind::WriteOff !== $a->kind) {
                continue;
            }
            $item = $this->db->fetchAssociative('SELECT original, currency FROM open_item WHERE id = ?', [
                $a->item,
            ]) ?: ['original' => 0, 'currency' => $actor->baseCurrency];
            $limit = $this->settings
                ->of($actor->companyId)
                ->smallDifference((int) $item['original'], $actor->baseCurrency);
            if (abs($a->amount) > $limit) {
                throw Refused::because(
                    'write_off',
                    \sprintf(
                        'A small difference of %s is over the tolerance of %s on this item; leave it owed.',
                        Money::of(abs($a->amount), (string) $item['currency'])->decimal(),
                        Money::of($limit, $actor->baseCurrency)->decimal(),
                    ),
                );
            }
        }
    }
}
