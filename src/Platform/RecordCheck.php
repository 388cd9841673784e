<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** What every coded record of a company's setup must satisfy. */
final class RecordCheck
{
    /**
     * @param class-string $class
     * @param array<string, mixed> $more what else the code is unique within
     *
     * @throws Refused when the code is malformed or taken
     */
    public static function code(
        EntityManagerInterface $entities,
        string $class,
        Actor $actor,
        string $code,
        string $field = 'code',
        array $more = [],
    ): void {
        if (1 !== preg_match('/\A[A-Za-z0-9][A-Za-z0-9._-]{0,19}\z/', $code)) {
            throw Refused::because(
                $field,
                \sprintf(
                    '“%s” cannot be used; write up to 20 letters, digits, points or dashes.',
                    mb_strimwidth($code, 0, 30, '…'),
                ),
            );
        }
        if (
            null !==
            $entities->getRepository($class)->findOneBy(['companyId' => $actor->companyId, $field => $code, ...$more])
        ) {
            throw Refused::because($field, \sprintf('%s is taken already; choose another.', $code));
        }
    }

    /** @throws Refused when it is missing or too long */
    public static function name(string $name, int $limit, string $field = 'name'): void
    {
        if ('' === $name || mb_strlen($name) > $limit) {
            throw Refused::because(
                $field,
                '' === $name
                    ? \sprintf('The %s is missing.', $field)
                    : \sprintf('This is longer than %d characters; shorten it.', $limit),
                ProblemKind::Missing,
            );
        }
    }

    public static function yes(string $value): bool
    {
        return \in_array(strtolower($value), ['1', 'yes', 'on', 'true'], true);
    }
}
