<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Documents\Lookup;
use Nelbix\App\Documents\OpenItemsQuery;
use Nelbix\App\Platform\BooksDay;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:open-items', 'Lists open items as of a day')]
final class OpenItemsCommand extends CompanyCommand
{
    public function __construct(private readonly OpenItemsQuery $query, private readonly BooksDay $booksDay, private readonly Lookup $lookup)
    {
        parent::__construct();
    }

    protected function configure(): void
    {
        parent::configure();
        $this->addArgument('side', InputArgument::REQUIRED, 'payables or receivables')->addOption('party', null, InputOption::VALUE_REQUIRED)->addOption('as-of', null, InputOption::VALUE_REQUIRED);
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $company = $this->company($input);
        $side = Side::tryFrom((string) $input->getArgument('side')) ?? throw Refused::because('side', 'The side is payables or receivables.');
        $today = $this->booksDay->of($company->id());
        $asOf = null === $input->getOption('as-of') ? $today : Day::of((string) $input->getOption('as-of'), 'as-of');
        $party = null === $input->getOption('party') ? null : $this->lookup->party($company->id(), $side, (string) $input->getOption('party'))->id();
        self::rows(array_map(static fn (array $r): array => [
            'party' => $r['party'], 'document' => $r['number'], 'their_number' => $r['their_number'], 'kind' => $r['kind'], 'due' => $r['due_date'], 'currency' => $r['currency'],
            'original' => self::decimal($r['original'], $r['currency']), 'open' => self::decimal($r['open'], $r['currency']), 'open_base' => self::decimal($r['open_base'], $company->baseCurrency),
        ], $this->query->asOf($company->id(), $side, $asOf, $asOf->equals($today), $party)), $input, $output);

        return self::SUCCESS;
    }
}
