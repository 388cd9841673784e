<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Doctrine\DBAL\Connection;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:status', 'Says whether there is a company yet')]
final class StatusCommand extends Command
{
    public function __construct(private readonly Connection $db)
    {
        parent::__construct();
    }

    protected function execute(InputInterface $input, OutputInterface $output): int
    {
        $output->write(0 === (int) $this->db->fetchOne('SELECT COUNT(*) FROM company') ? 'empty' : 'ready');

        return self::SUCCESS;
    }
}
