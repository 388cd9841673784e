<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Nelbix\Core\Refused;
use Symfony\Component\EventDispatcher\Attribute\AsEventListener;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\HttpKernel\Event\ExceptionEvent;
use Symfony\Component\HttpKernel\Exception\HttpExceptionInterface;
use Twig\Environment;

/** Says in one sentence what went wrong and how to go on, without telling a stranger anything about the inside. */
#[AsEventListener(priority: -64)]
final readonly class Problems
{
    public function __construct(private Environment $twig)
    {
    }

    public function __invoke(ExceptionEvent $event): void
    {
        $e = $event->getThrowable();
        if (Retryable::isAway($e)) {
            $event->setResponse(self::away());
        } elseif ($e instanceof Refused) {
            $event->setResponse($this->page(422, 'That cannot be done', $e->getMessage()));
        } elseif ($e instanceof HttpExceptionInterface && $e->getStatusCode() < 500) {
            $event->setResponse(
                $this->page(
                    $e->getStatusCode(),
                    403 === $e->getStatusCode() ? 'Not allowed' : 'Not found',
                    404 === $e->getStatusCode() && str_starts_with($e->getMessage(), 'No route')
                        ? 'There is no such page.'
                        : $e->getMessage(),
                ),
            );
        }
    }

    /** Without a template: a page asks for the session, and that lives in the database too. */
    private static function away(): Response
    {
        $text =
            'The database cannot be reached right now. Nothing was changed by this; wait a moment and send it again.';

        return new Response(
            '<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Wait a moment · Nelbix</title>'.
                '<link rel="stylesheet" href="/build/app.css"></head><body><main><h1>Wait a moment</h1><p>'.
                $text.
                '</p><p>What you typed is still on the page before this one: go back and send it again.</p></main></body></html>',
            Response::HTTP_SERVICE_UNAVAILABLE,
            ['Content-Type' => 'text/html; charset=UTF-8', 'Retry-After' => '5'],
        );
    }

    private function page(int $status, string $title, string $text): Response
    {
        return new Response(
            $this->twig->render('platform/message.html.twig', ['title' => $title, 'text' => $text]),
            $status,
        );
    }
}
