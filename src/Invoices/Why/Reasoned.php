<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices\Why;

/** A computed figure, and why it is what it is. */
final readonly class Reasoned
{
    /**
     * @param string $figure its name, such as "Due"
     * @param string $is what it is, as the screen shows it
     * @param string $rule the rule that gave it
     * @param list<string> $numbers what went in, a line each
     */
    public function __construct(public string $figure, public string $is, public string $rule, public array $numbers)
    {
    }
}
