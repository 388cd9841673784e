<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\Autowire;

/** Refuses work before the disk under the data is full, so that what was answered "posted" has found its room. */
final readonly class Disk
{
    /** Bytes that a transaction, its log and what is written beside it may need. */
    private const LEAST = 100_000_000;

    public function __construct(
        #[Autowire('%env(default::NELBIX_DATA)%')] private ?string $folder,
        private int $least = self::LEAST,
    ) {
    }

    /** @throws Refused while there is too little room */
    public function mustHaveRoom(): void
    {
        $free = null === $this->folder || '' === $this->folder ? false : @disk_free_space($this->folder);
        if (false !== $free && $free < $this->least) {
            throw Refused::because(
                '',
                'The disk is nearly full, so nothing is taken any more and nothing was changed. Whoever runs Nelbix must make room.',
                ProblemKind::TooMuch,
            );
        }
    }
}
