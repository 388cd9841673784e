<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Symfony\Component\EventDispatcher\Attribute\AsEventListener;
use Symfony\Component\HttpKernel\Event\ResponseEvent;

/** No inline script or style, no framing, no sniffing, nothing cached that belongs to a person. */
#[AsEventListener]
final class SafeHeaders
{
    public function __invoke(ResponseEvent $event): void
    {
        $headers = $event->getResponse()->headers;
        $headers->set(
            'Content-Security-Policy',
            "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; ".
                "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'",
        );
        if ($event->getRequest()->isSecure()) {
            $headers->set('Strict-Transport-Security', 'max-age=31536000');
        }
        $headers->set('X-Content-Type-Options', 'nosniff');
        $headers->set('X-Frame-Options', 'DENY');
        $headers->set('Referrer-Policy', 'same-origin');
        $headers->set('Cache-Control', 'no-store, private');
    }
}
