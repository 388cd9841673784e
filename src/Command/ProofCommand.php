<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Close\Proof;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:proof', 'Says in a few figures what the books come to, to compare two of them')]
final class ProofCommand extends CompanyCommand
{
    public function __construct(private readonly Proof $proof)
    {
        parent::__construct();
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $rows = [];
        foreach ($this->companies($input) as $company) {
            foreach ($this->proof->of($company->id()) as $what => $sum) {
                $rows[] = ['company' => $company->code, 'what' => $what, 'sum' => $sum];
            }
        }
        self::rows($rows, $input, $output);

        return self::SUCCESS;
    }
}
