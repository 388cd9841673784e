<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\Autowire;
use Symfony\Component\EventDispatcher\Attribute\AsEventListener;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\HttpKernel\Event\ExceptionEvent;
use Symfony\Component\HttpKernel\Exception\HttpExceptionInterface;
use Symfony\Component\Routing\Exception\InvalidParameterException;
use Twig\Environment;

/** Says in one sentence what went wrong and how to go on, without telling a stranger anything about the inside. */
#[AsEventListener(priority: -64)]
final readonly class Problems
{
    public function __construct(private Environment $twig, #[Autowire('%kernel.debug%')] private bool $debug)
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
        } elseif ($e instanceof InvalidParameterException) {
            // what was sent names no record, so there is no page of it to go on to
            $event->setResponse($this->page(404, 'Not found', 'There is no such record in this company.'));
        } elseif (!$this->debug) {
            $event->setResponse(self::failed());
        }
    }

    /** Whatever it was: a page of our own, which keeps to our content policy, and not the framework's. */
    public static function failed(): Response
    {
        return self::plain(
            Response::HTTP_INTERNAL_SERVER_ERROR,
            'That went wrong',
            'Nelbix made a mistake here. Nothing was changed by this; whoever looks after it finds the reason in the log.',
        );
    }

    /** Without a template: a page asks for the session, and that lives in the database too. */
    private static function away(): Response
    {
        $text =
            'The database cannot be reached right now. Nothing was changed by this; wait a moment and send it again.';

        return self::plain(Response::HTTP_SERVICE_UNAVAILABLE, 'Wait a moment', $text, ['Retry-After' => '5']);
    }

    /** @param array<string, string> $headers */
    private static function plain(int $status, string $title, string $text, array $headers = []): Response
    {
        return new Response(
            '<!doctype html><html lang="en"><head><meta charset="utf-8"><title>'.
                $title.
                ' · Nelbix</title><link rel="stylesheet" href="/build/app.css"></head><body><main><h1>'.
                $title.
                '</h1><p>'.
                $text.
                '</p><p>What you typed is still on the page before this one: go back and send it again.</p></main></body></html>',
            $status,
            ['Content-Type' => 'text/html; charset=UTF-8', ...$headers],
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
