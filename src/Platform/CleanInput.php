<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Symfony\Component\EventDispatcher\Attribute\AsEventListener;
use Symfony\Component\HttpFoundation\InputBag;
use Symfony\Component\HttpKernel\Event\RequestEvent;

/** What a request brings is text: bytes that are no UTF-8 become question marks, and control characters but tab and line end go. */
final readonly class CleanInput
{
    /** Before the firewall, which reads the sign-in. */
    #[AsEventListener(priority: 64)]
    public function onRequest(RequestEvent $event): void
    {
        $request = $event->getRequest();
        foreach ([$request->query, $request->request] as $bag) {
            /** @var InputBag<string> $bag */
            $bag->replace(self::clean($bag->all()));
        }
    }

    /**
     * @param array<mixed> $values
     *
     * @return array<mixed>
     */
    private static function clean(array $values): array
    {
        $clean = [];
        foreach ($values as $key => $value) {
            $clean[\is_string($key) ? self::text($key) : $key] = match (true) {
                \is_array($value) => self::clean($value),
                \is_string($value) => self::text($value),
                default => $value,
            };
        }

        return $clean;
    }

    private static function text(string $value): string
    {
        return (string) preg_replace('/[\x00-\x08\x0B\x0C\x0E-\x1F\x7F]/u', '', mb_scrub($value, 'UTF-8'));
    }
}
