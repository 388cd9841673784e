<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Symfony\Component\DependencyInjection\Attribute\Exclude;

/** A place that a line may be given, as it stands in its row. Amounts in minor units. */
#[Exclude]
final readonly class Option
{
    /**
     * @param string $label what it is, with whose and how much
     * @param string $reason why it stands there
     * @param int $left of the line when it is taken
     * @param int $off what line and record differ by: it needs an account
     * @param string $offAccount the one that it most likely goes to; it may be changed in the row
     */
    public function __construct(
        public Choice $choice,
        public string $label,
        public string $reason,
        public int $left = 0,
        public int $off = 0,
        public string $offAccount = '',
    ) {
    }

    public function token(): string
    {
        return $this->choice->token();
    }
}
