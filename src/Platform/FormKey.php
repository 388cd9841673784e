<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Symfony\Component\HttpFoundation\Request;

/**
 * What tells a form that is sent twice from another one: the key that its page was given, and a digest of what was typed.
 * The same key with other words is no repetition but another wish, and is refused.
 */
final readonly class FormKey
{
    private const FIELD = '_key';

    /**
     * @param string $key of 40 characters
     * @param string $content SHA-256 of what was typed, in hexadecimal
     */
    public function __construct(public string $key, public string $content)
    {
    }

    /** Null when the page was given no key. */
    public static function of(Request $request): ?self
    {
        $typed = $request->request->all();
        $key = $typed[self::FIELD] ?? null;
        // the others that begin so belong to the page and the sign-in, which may have been made anew in the meantime
        $typed = array_filter(
            $typed,
            static fn (string|int $field): bool => !str_starts_with((string) $field, '_'),
            \ARRAY_FILTER_USE_KEY,
        );

        return \is_string($key) && '' !== $key
            ? new self(
                substr(hash('sha256', $key), 0, 40),
                hash('sha256', json_encode($typed, \JSON_THROW_ON_ERROR | \JSON_INVALID_UTF8_SUBSTITUTE)),
            )
            : null;
    }

    /**
     * The key that a page drawn again goes on with, or a new one.
     *
     * @param array<mixed> $typed
     */
    public static function goOn(array $typed = []): string
    {
        return \is_string($typed[self::FIELD] ?? null) ? $typed[self::FIELD] : bin2hex(random_bytes(16));
    }
}
