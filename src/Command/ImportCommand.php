<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Import\Importers;
use Nelbix\App\Import\ImportFile;
use Nelbix\App\Import\ImportInSlices;
use Nelbix\Core\Refused;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:import', 'Imports a CSV file, all or nothing')]
final class ImportCommand extends CompanyCommand
{
    public function __construct(
        private readonly ImportFile $importFile,
        private readonly Importers $importers,
        private readonly ImportInSlices $inSlices,
    ) {
        parent::__construct();
    }

    protected function configure(): void
    {
        parent::configure();
        $this->addArgument('kind', InputArgument::REQUIRED, implode(', ', $this->importers->kinds()))
            ->addArgument('file', InputArgument::REQUIRED)
            ->addOption('dry-run', null, InputOption::VALUE_NONE, 'check only')
            ->addOption('again', null, InputOption::VALUE_NONE, 'the same file once more is meant')
            ->addOption('approved', null, InputOption::VALUE_NONE, 'bank details are confirmed already');
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $file = (string) $input->getArgument('file');
        $bytes = is_file($file) && is_readable($file) ? file_get_contents($file) : false;
        if (false === $bytes) {
            throw Refused::because('file', \sprintf('The file “%s” cannot be read.', $file));
        }
        [$actor, $kind] = [$this->actor($input), (string) $input->getArgument('kind')];
        [$dryRun, $again] = [(bool) $input->getOption('dry-run'), (bool) $input->getOption('again')];
        // what is imported from here is posted at once; only bank details wait for a second person
        $approved = $input->getOption('approved') || 'journal' === $kind;
        $result = $dryRun ? null : $this->inSlices->import($actor, $kind, basename($file), $bytes, $again, $approved);
        $result ??= $this->importFile->import($actor, $kind, $bytes, $dryRun, $approved, null, $again);
        if ([] !== $result['errors']) {
            $this->refuse($result['errors'], $input, $output);

            return self::FAILURE;
        }
        'json' === $input->getOption('format')
            ? self::json($result, $output)
            : $output->writeln(
                \sprintf(
                    $input->getOption('dry-run') ? '%d would be created; nothing was changed.' : '%d created.',
                    $result['created'],
                ),
            );

        return self::SUCCESS;
    }
}
