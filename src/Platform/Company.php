<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\Core\Calendar\Day;

#[ORM\Entity]
#[ORM\Table(name: 'company')]
class Company
{
    use Stored;

    /** Set for the demo, or by a controller; null means today. */
    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $booksDay = null;

    /** Of the tz database, such as America/Chicago; its calendar says which day it is for the books. */
    #[ORM\Column(length: 40, options: ['default' => 'UTC'])]
    public string $timeZone = 'UTC';

    /** Of the fiscal year, 1 to 12. Set when the company is made. */
    #[ORM\Column(type: 'smallint', options: ['default' => 1])]
    public int $firstMonth = 1;

    /** The day as of which accounts and open items were taken over from elsewhere; null when they were not. */
    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $openingDay = null;

    /** First steps that a controller marked as done, with commas between them; null once the list is put away. */
    #[ORM\Column(length: 120, nullable: true)]
    public ?string $firstSteps = null;

    #[ORM\Column(length: 255)]
    public string $address = '';

    #[ORM\Column(length: 120, options: ['default' => ''])]
    public string $city = '';

    /** Two letters of ISO 3166. */
    #[ORM\Column(length: 2, options: ['default' => ''])]
    public string $country = '';

    #[ORM\Column(length: 40, options: ['default' => ''])]
    public string $taxNumber = '';

    /** The page at which the stand-in printer jams next. */
    #[ORM\Column(type: 'smallint', nullable: true)]
    public ?int $printerJamsAt = null;

    public function __construct(
        #[ORM\Column(length: 20)] public readonly string $code,
        #[ORM\Column(length: 120)] public string $name,
        #[ORM\Column(length: 3, options: ['fixed' => true])] public readonly string $baseCurrency,
    ) {
    }
}
