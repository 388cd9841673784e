<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Close\Verify;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:verify', 'Checks what must always hold; all companies unless one is named')]
final class VerifyCommand extends CompanyCommand
{
    public function __construct(private readonly Verify $verify)
    {
        parent::__construct();
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $bad = 0;
        $rows = [];
        foreach ($this->companies($input) as $company) {
            foreach ($this->verify->of($company->id()) as $check => $findings) {
                $bad += \count($findings);
                $rows[] = [
                    'company' => $company->code,
                    'check' => $check,
                    'what' => Verify::CHECKS[$check],
                    'holds' => [] === $findings ? 'yes' : 'NO',
                    'found' => $findings,
                ];
            }
        }
        self::rows($rows, $input, $output);

        return 0 === $bad ? self::SUCCESS : self::FAILURE;
    }
}
