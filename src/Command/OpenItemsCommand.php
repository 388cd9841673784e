<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Books\ItemFilter;
use Nelbix\App\Books\Lookup;
use Nelbix\App\Books\OpenItemsQuery;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:open-items', 'Lists open items as of a day')]
final class OpenItemsCommand extends CompanyCommand
{
    public function __construct(private readonly OpenItemsQuery $query, private readonly Lookup $lookup)
    {
        parent::__construct();
    }

    protected function configure(): void
    {
        parent::configure();
        $this->addSide();
        $this->addAsOf();
        $this->addOption('party', null, InputOption::VALUE_REQUIRED);
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $company = $this->company($input);
        $side = $this->side($input);
        $asOf = $this->asOf($input, $company);
        $party =
            null === $input->getOption('party')
                ? null
                : $this->lookup->anyParty($company->id(), $side, (string) $input->getOption('party'));
        self::rows(
            array_map(
                static fn (array $r): array => [
                    'party' => $r['party'],
                    'document' => $r['number'],
                    'their_number' => $r['their_number'],
                    'kind' => $r['kind'],
                    'due' => $r['due_date'],
                    'currency' => $r['currency'],
                    'original' => self::decimal($r['original'], $r['currency']),
                    'open' => self::decimal($r['open'], $r['currency']),
                    'open_base' => self::decimal($r['open_base'], $company->baseCurrency),
                ],
                iterator_to_array($this->query->each(new ItemFilter($company->id(), $side, $asOf, $party)), false),
            ),
            $input,
            $output,
        );

        return self::SUCCESS;
    }
}
