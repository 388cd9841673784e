<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Close\Seal\PackHistory;
use Nelbix\App\Platform\Words;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Output\OutputInterface;

/** By a user of the database that may take lines out of the history, which the application's own may not. */
#[AsCommand('nelbix:history:pack', 'Packs what happened years ago and is sealed')]
final class PackHistoryCommand extends Command
{
    public function __construct(private readonly PackHistory $pack)
    {
        parent::__construct();
    }

    protected function execute(InputInterface $input, OutputInterface $output): int
    {
        $output->writeln(Words::count($this->pack->all(), 'pack').' made.');

        return self::SUCCESS;
    }
}
