<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\Core\Calendar\DateInput;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;
use Symfony\Component\HttpFoundation\ParameterBag;

/** The day a company works on: today where it is, unless the demo or a controller has set another. */
final readonly class BooksDay
{
    public function __construct(
        private EntityManagerInterface $entities,
        private ClockInterface $clock,
        private Settings $settings,
    ) {
    }

    public function of(int $companyId): Day
    {
        $company = $this->entities->find(Company::class, $companyId);

        return $company->booksDay ??
            Day::fromDateTime($this->clock->now()->setTimezone(new \DateTimeZone($company->timeZone ?? 'UTC')));
    }

    public function input(int $companyId): DateInput
    {
        return new DateInput($this->of($companyId), $this->settings->of($companyId)->monthFirst());
    }

    /**
     * A day that a link or a form names; the other where it names none.
     *
     * @throws Refused naming the field
     */
    public function asked(int $companyId, ParameterBag $asked, string $field, Day $else): Day
    {
        $typed = $asked->all()[$field] ?? '';

        return \is_string($typed) && '' !== trim($typed) ? $this->input($companyId)->read(trim($typed), $field) : $else;
    }
}
