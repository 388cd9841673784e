<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Seal;

use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/** The end of a company's seal: how many links it has, and the hash of the last, in hexadecimal digits. */
#[Exclude]
final readonly class SealHead
{
    public function __construct(public int $n, public string $hash)
    {
    }

    /** @throws Refused when it is not written like 1204:0af3… */
    public static function read(string $typed): self
    {
        if (1 !== preg_match('/\A(\d{1,12}):([0-9a-fA-F]{64})\z/', trim($typed), $m)) {
            throw Refused::because(
                'head',
                'A head of the seal is the number of its last link, a colon and 64 hexadecimal digits.',
            );
        }

        return new self((int) $m[1], strtolower($m[2]));
    }

    /** @param string $chain the hash as it is stored, in bytes */
    public function is(string $chain): bool
    {
        return hash_equals($this->hash, bin2hex($chain));
    }

    public function words(): string
    {
        return $this->n.':'.$this->hash;
    }
}
