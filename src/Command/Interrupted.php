<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Symfony\Component\Console\ConsoleEvents;
use Symfony\Component\Console\Event\ConsoleSignalEvent;
use Symfony\Component\EventDispatcher\Attribute\AsEventListener;

/**
 * A command that was ended from outside has not done its work: whoever called it is told so, as the shell does. Left alone the console
 * would say that all is well, and a restore would say that everything was verified.
 */
#[AsEventListener(ConsoleEvents::SIGNAL)]
final readonly class Interrupted
{
    public function __invoke(ConsoleSignalEvent $event): void
    {
        $event->setExitCode(128 + $event->getHandlingSignal());
    }
}
