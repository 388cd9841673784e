<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\NewCompany;

/** One thing that a new company needs, and where it is done. */
final readonly class FirstStep
{
    /**
     * @param bool $found the books show that it is done
     * @param bool $marked the controller says so
     * @param array<string, string> $parameters of the route, besides the company
     */
    public function __construct(
        public string $key,
        public string $text,
        public string $do,
        public string $route,
        public array $parameters,
        public bool $found,
        public bool $marked,
    ) {
    }

    public function done(): bool
    {
        return $this->found || $this->marked;
    }
}
