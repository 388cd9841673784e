<?php

declare(strict_types=1);

namespace Nelbix\Demo;

use Doctrine\DBAL\Connection;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:demo:load', 'Loads the demo into an empty database')]
final class LoadCommand extends Command
{
    public function __construct(private readonly Tamarack $tamarack, private readonly Connection $db)
    {
        parent::__construct();
    }

    protected function execute(InputInterface $input, OutputInterface $output): int
    {
        if (0 !== (int) $this->db->fetchOne('SELECT COUNT(*) FROM company')) {
            $output->writeln(
                'There are companies here already. ./nelbix demo throws all data away and loads the demo.',
            );

            return self::FAILURE;
        }
        $this->tamarack->load(static fn (string $text) => $output->writeln('  '.$text));

        return self::SUCCESS;
    }
}
