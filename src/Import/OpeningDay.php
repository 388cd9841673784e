<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Company;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** The day as of which a company takes its books over from elsewhere. */
final readonly class OpeningDay
{
    public function __construct(private EntityManagerInterface $entities)
    {
    }

    /** @throws Refused when none is set */
    public function of(int $companyId): Day
    {
        return $this->entities->find(Company::class, $companyId)->openingDay ??
            throw Refused::because(
                '',
                'Say first as of which day the books are taken over, under Setup, Take-over.',
                ProblemKind::Missing,
            );
    }
}
