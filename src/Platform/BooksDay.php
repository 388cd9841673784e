<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\DateInput;
use Nelbix\Core\Calendar\Day;
use Psr\Clock\ClockInterface;

/** The day a company works on: today, unless the demo or a controller has set another. */
final readonly class BooksDay
{
    public function __construct(private Connection $db, private ClockInterface $clock, private Settings $settings)
    {
    }

    public function of(int $companyId): Day
    {
        $set = $this->db->fetchOne('SELECT books_day FROM company WHERE id = ?', [$companyId]);

        return \is_string($set) ? Day::of($set) : $this->calendarDay();
    }

    public function calendarDay(): Day
    {
        return Day::fromDateTime($this->clock->now());
    }

    public function input(int $companyId): DateInput
    {
        return new DateInput($this->of($companyId), $this->settings->of($companyId)->monthFirst());
    }
}
