<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\Platforms\AbstractPlatform;
use Doctrine\DBAL\Types\Type;

/** Bytes as they are, in a string: what a bank was sent, to the bit. */
final class BytesType extends Type
{
    public function getSQLDeclaration(array $column, AbstractPlatform $platform): string
    {
        return $platform->getBlobTypeDeclarationSQL($column);
    }

    public function convertToPHPValue(mixed $value, AbstractPlatform $platform): ?string
    {
        return match (true) {
            null === $value => null,
            \is_resource($value) => (string) stream_get_contents($value),
            default => (string) $value,
        };
    }
}
