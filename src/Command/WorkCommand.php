<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\User;
use Nelbix\App\Recurring\PrepareRecurring;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;

/** What is due by itself: prepares recurring documents of every company as drafts. Run it daily, or as often as one likes. */
#[AsCommand('nelbix:work', 'Prepares what is due: recurring documents as drafts')]
final class WorkCommand extends Command
{
    public function __construct(private readonly EntityManagerInterface $entities, private readonly PrepareRecurring $prepareRecurring, private readonly BooksDay $booksDay)
    {
        parent::__construct();
    }

    protected function configure(): void
    {
        $this->addOption('format', null, InputOption::VALUE_REQUIRED);
    }

    protected function execute(InputInterface $input, OutputInterface $output): int
    {
        $console = $this->entities->getRepository(User::class)->findOneBy(['username' => 'console']);
        $made = [];
        foreach (array_map(static fn (Company $c): string => $c->code, $this->entities->getRepository(Company::class)->findAll()) as $code) {
            $company = $this->entities->getRepository(Company::class)->findOneBy(['code' => $code]);
            $user = null === $console ? null : $this->entities->find(User::class, $console->id());
            if (null !== $company && null !== $user) {
                $made[$code] = $this->prepareRecurring->prepare(Actor::of($company, $user), $this->booksDay->of($company->id()));
            }
        }
        $output->writeln('json' === $input->getOption('format') ? json_encode(['recurring' => $made], \JSON_THROW_ON_ERROR) : implode("\n", array_map(static fn (string $c, int $n): string => \sprintf('%s: %d drafts prepared', $c, $n), array_keys($made), $made)));

        return self::SUCCESS;
    }
}
