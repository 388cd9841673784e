<?php

declare(strict_types=1);

namespace Nelbix\Demo;

use Doctrine\DBAL\Connection;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:demo:users', 'Lists the demo sign-ins, if this is the demo')]
final class UsersCommand extends Command
{
    public function __construct(private readonly Connection $db)
    {
        parent::__construct();
    }

    protected function execute(InputInterface $input, OutputInterface $output): int
    {
        $known = $this->db->fetchFirstColumn('SELECT username FROM app_user');
        foreach (Names::USERS as [$username, $name, $role]) {
            if (\in_array($username, $known, true)) {
                $output->writeln(\sprintf('  %-8s %-12s %s', $username, Tamarack::PASSWORD, $role));
            }
        }

        return self::SUCCESS;
    }
}
