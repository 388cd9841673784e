<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Doctrine\DBAL\Exception\ConnectionException;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Close\Journal\RecurringEntries;
use Nelbix\App\Invoices\PrepareRecurring;
use Nelbix\App\People\User;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Company;
use Nelbix\App\Work\Chore;
use Nelbix\App\Work\Worker;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Command\SignalableCommandInterface;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;
use Symfony\Component\DependencyInjection\Attribute\Autowire;
use Symfony\Component\DependencyInjection\Attribute\AutowireIterator;
use Symfony\Contracts\Service\ResetInterface;

/**
 * Works the job table until nothing waits, and prepares the recurring documents that are due; with --stay it goes on working the job
 * table.
 */
#[AsCommand('nelbix:work', 'Works the job table, and prepares recurring documents that are due as drafts')]
final class WorkCommand extends Command implements SignalableCommandInterface
{
    /** Seconds after which the chores are done again, and the most while they find nothing to do: twice as long each time. */
    private const CHORES_EVERY = 1;
    private const CHORES_AT_REST = 4;

    /** A worker that stays ends after so many seconds, and is started anew with fresh memory and code. */
    private const STAYS = 3600;

    private bool $ends = false;

    /** @param iterable<Chore> $chores */
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly PrepareRecurring $prepareRecurring,
        private readonly RecurringEntries $recurringEntries,
        private readonly BooksDay $booksDay,
        private readonly Worker $worker,
        #[AutowireIterator(Chore::class)] private readonly iterable $chores,
        #[Autowire(service: 'services_resetter')] private readonly ResetInterface $resetter,
    ) {
        parent::__construct();
    }

    protected function configure(): void
    {
        $this->addOption('format', null, InputOption::VALUE_REQUIRED)->addOption(
            'stay',
            null,
            InputOption::VALUE_NONE,
            'Wait for work and do it as it comes',
        );
    }

    /** @return list<int> */
    public function getSubscribedSignals(): array
    {
        return [\SIGTERM, \SIGINT];
    }

    /** What was begun is done first. */
    public function handleSignal(int $signal, int|false $previousExitCode = 0): int|false
    {
        $this->ends = true;

        return false;
    }

    protected function execute(InputInterface $input, OutputInterface $output): int
    {
        if ($input->getOption('stay')) {
            return $this->stay();
        }
        $slices = 0;
        while ($this->next()) {
            ++$slices;
        }
        while ($this->chores()) {
        }
        $made = $this->recurring();
        $output->writeln(
            'json' === $input->getOption('format')
                ? json_encode(['slices' => $slices, 'recurring' => $made], \JSON_THROW_ON_ERROR)
                : implode("\n", [
                    \sprintf('%d slices of long work done', $slices),
                    ...array_map(
                        static fn (string $c, int $n): string => \sprintf('%s: %d drafts prepared', $c, $n),
                        array_keys($made),
                        $made,
                    ),
                ]),
        );

        return self::SUCCESS;
    }

    /** What was read for the slice before may have been changed by somebody since: accounts, codes, settings are read anew. */
    private function next(): bool
    {
        $this->resetter->reset();

        return $this->worker->next();
    }

    /** @return bool whether there may be more to do at once */
    private function chores(): bool
    {
        $more = false;
        foreach ($this->chores as $chore) {
            $more = $chore->do() || $more;
        }

        return $more;
    }

    private function stay(): int
    {
        $until = time() + self::STAYS;
        $chores = 0;
        $pause = self::CHORES_EVERY;
        while (!$this->ends && time() < $until) {
            try {
                if (time() >= $chores + $pause) {
                    $more = $this->chores();
                    [$chores, $pause] = $more
                        ? [0, self::CHORES_EVERY]
                        : [time(), min(self::CHORES_AT_REST, 2 * $pause)];
                }
                if (!$this->next()) {
                    usleep(500_000);
                }
            } catch (ConnectionException) {
                // the database is away; what was begun is rolled back, and done when it is here again
                $this->entities->getConnection()->close();
                usleep(500_000);
            }
        }

        return self::SUCCESS;
    }

    /** @return array<string, int> drafts by company */
    private function recurring(): array
    {
        $console = $this->entities->getRepository(User::class)->findOneBy(['username' => 'console']);
        $made = [];
        foreach (
            array_map(
                static fn (Company $c): string => $c->code,
                $this->entities->getRepository(Company::class)->findAll(),
            ) as $code
        ) {
            $company = $this->entities->getRepository(Company::class)->findOneBy(['code' => $code]);
            $user = null === $console ? null : $this->entities->find(User::class, $console->id());
            if (null !== $company && null !== $user) {
                [$actor, $day] = [Actor::of($company, $user), $this->booksDay->of($company->id())];
                $made[$code] =
                    $this->prepareRecurring->prepare($actor, $day) + $this->recurringEntries->prepare($actor, $day);
            }
        }

        return $made;
    }
}
