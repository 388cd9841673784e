<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** Units of one currency for one unit of another, from a day on. */
#[ORM\Entity]
#[ORM\Table(name: 'exchange_rate')]
class ExchangeRate
{
    use Stored;

    /** Where it came from, a key of SaveRate::SOURCES. */
    #[ORM\Column(length: 10, options: ['default' => 'typed'])]
    public string $source = 'typed';

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(type: 'day')] public readonly Day $validOn,
        #[ORM\Column(length: 3, options: ['fixed' => true])] public readonly string $fromCurrency,
        #[ORM\Column(length: 3, options: ['fixed' => true])] public readonly string $toCurrency,
        #[ORM\Column(type: 'decimal', precision: 20, scale: 10)] public string $rate,
    ) {
    }
}
