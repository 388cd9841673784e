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
        if ($e instanceof Refused) {
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

    private function page(int $status, string $title, string $text): Response
    {
        return new Response(
            $this->twig->render('platform/message.html.twig', ['title' => $title, 'text' => $text]),
            $status,
        );
    }
}
