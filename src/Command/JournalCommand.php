<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Close\EntriesOfNumber;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:journal', 'The entry or entries of a document')]
final class JournalCommand extends CompanyCommand
{
    public function __construct(private readonly EntriesOfNumber $query)
    {
        parent::__construct();
    }

    protected function configure(): void
    {
        parent::configure();
        $this->addArgument('number', InputArgument::REQUIRED, 'a document’s or an entry’s number');
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $company = $this->company($input);
        $entries = $this->query->of($company->id(), (string) $input->getArgument('number'));
        if ([] === $entries) {
            throw Refused::because(
                'number',
                \sprintf('There is no document or entry “%s”.', $input->getArgument('number')),
                ProblemKind::Unknown,
            );
        }
        $d = static fn (int $minor): string => self::decimal($minor, $company->baseCurrency);
        $data = array_map(
            static fn (array $e): array => [
                'entry' => $e['number'],
                'date' => $e['posting_date'],
                'text' => $e['text'],
                'currency' => $e['currency'],
                'lines' => array_map(
                    static fn (array $l): array => [
                        'account' => $l['account'],
                        'name' => $l['name'],
                        'debit' => $d(max(0, $l['base'])),
                        'credit' => $d(max(0, -$l['base'])),
                        'amount' => self::decimal($l['amount'], $e['currency']),
                        'party' => $l['party'],
                    ],
                    $e['lines'],
                ),
            ],
            $entries,
        );
        if ('json' === $input->getOption('format')) {
            self::json($data, $output);

            return self::SUCCESS;
        }
        foreach ($data as $entry) {
            $output->writeln(\sprintf('%s  %s  %s', $entry['entry'], $entry['date'], $entry['text']));
            self::rows($entry['lines'], $input, $output);
        }

        return self::SUCCESS;
    }
}
