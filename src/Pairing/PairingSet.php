<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Money\Money;

/** Two sources that ought to agree. Amounts in minor units of the set's currency. */
#[ORM\Entity]
#[ORM\Table(name: 'pairing_set')]
class PairingSet
{
    use Stored;

    /** The company whose rows are on a side, where that is another one. */
    #[ORM\Column(nullable: true)]
    public ?int $otherCompanyId = null;

    /** What makes a set between sister companies the only one of its kind. */
    #[ORM\Column(length: 40, nullable: true)]
    public ?string $sisterKey = null;

    /** @var list<array{name: string, left: string, right: string}> what corresponds, by the name that rules use */
    #[ORM\Column(type: 'json')]
    public array $sharedFields = [];

    /** Whose sign is turned: left, right or none. */
    #[ORM\Column(length: 5)]
    public string $turned = 'none';

    #[ORM\Column(type: 'bigint')]
    public int $amountWithin = 0;

    #[ORM\Column(type: 'decimal', precision: 7, scale: 3, nullable: true)]
    public ?string $percentWithin = null;

    #[ORM\Column(type: 'smallint', nullable: true)]
    public ?int $daysWithin = null;

    /** How far sums may be apart that are paired by hand. */
    #[ORM\Column(type: 'bigint')]
    public int $handWithin = 0;

    #[ORM\Column(length: 40)]
    public string $groupByField = '';

    /** Whose books take a difference: left or right. */
    #[ORM\Column(length: 5)]
    public string $adjusts = 'left';

    /** The amounts of the other company are shown to those who do not work there. */
    #[ORM\Column]
    public bool $showsOther = false;

    #[ORM\Column]
    public bool $retired = false;

    #[ORM\Version, ORM\Column(type: 'integer', options: ['default' => 1])]
    public int $version = 1;

    /**
     * @param array<string, mixed> $leftSource see Source
     * @param array<string, mixed> $rightSource
     */
    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 120)] public string $name,
        #[ORM\Column(type: 'json')] public array $leftSource,
        #[ORM\Column(type: 'json')] public array $rightSource,
        #[ORM\Column(length: 3, options: ['fixed' => true])] public string $currency,
        #[ORM\Column] public readonly int $createdById,
    ) {
    }

    /**
     * The fields of a row by the names that rules use: those that both sides share, and its own.
     *
     * @param array<string, string> $own
     *
     * @return array<string, string>
     */
    public function fieldsOf(string $side, array $own): array
    {
        $fields = $own;
        foreach ($this->sharedFields as $shared) {
            $fields[$shared['name']] = $own['left' === $side ? $shared['left'] : $shared['right']] ?? '';
        }

        return $fields;
    }

    /** @return int −1 when the sign of a side is turned, else 1 */
    public function signOf(string $side): int
    {
        return $this->turned === $side ? -1 : 1;
    }

    /** How far amounts may be apart where a rule says nothing else, as it is typed: an amount, a percent, or nothing. */
    public function within(): string
    {
        return match (true) {
            null !== $this->percentWithin => rtrim(rtrim($this->percentWithin, '0'), '.').' %',
            0 === $this->amountWithin => '',
            default => Money::of($this->amountWithin, $this->currency)->decimal(),
        };
    }

    /** @return list<string> */
    public function sharedNames(): array
    {
        return array_column($this->sharedFields, 'name');
    }

    public function source(string $side): Source
    {
        return Source::of('left' === $side ? $this->leftSource : $this->rightSource);
    }
}
