<?php

declare(strict_types=1);

namespace Nelbix\App\Settlement;

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
     * @param list<array{item: int, kind: AdjustmentKind, amount: int}> $adjustments
     *
     * @throws Refused over the tolerance
     */
    public function check(Actor $actor, array $adjustments, string $currency): void
    {
        foreach ($adjustments as $a) {
            if (AdjustmentKind::WriteOff !== $a['kind']) {
                continue;
            }
            $original = (int) $this->db->fetchOne('SELECT original FROM open_item WHERE id = ?', [$a['item']]);
            $limit = $this->settings->of($actor->companyId)->smallDifference($original, $actor->baseCurrency);
            if (abs($a['amount']) > $limit) {
                throw Refused::because('write_off', \sprintf('A small difference of %s is over the tolerance of %s on this item; leave it owed.', Money::of(abs($a['amount']), $currency)->decimal(), Money::of($limit, $actor->baseCurrency)->decimal()));
            }
        }
    }
}
