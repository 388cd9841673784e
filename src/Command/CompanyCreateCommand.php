<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Setup\NewCompany\CreateCompany;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:company:create', 'Makes a company with the standard chart of accounts')]
final class CompanyCreateCommand extends CompanyCommand
{
    public function __construct(private readonly CreateCompany $createCompany)
    {
        parent::__construct();
    }

    protected function configure(): void
    {
        parent::configure();
        $this->addArgument('code', InputArgument::REQUIRED)
            ->addOption('name', null, InputOption::VALUE_REQUIRED)
            ->addOption('base-currency', null, InputOption::VALUE_REQUIRED, '', 'USD');
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $code = (string) $input->getArgument('code');
        $this->createCompany->create(
            $code,
            (string) ($input->getOption('name') ?? $code),
            (string) $input->getOption('base-currency'),
        );
        self::rows([['company' => $code]], $input, $output);

        return self::SUCCESS;
    }
}
