<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Close\TrialBalanceQuery;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:trial-balance', 'The trial balance as of a day')]
final class TrialBalanceCommand extends CompanyCommand
{
    public function __construct(private readonly TrialBalanceQuery $query)
    {
        parent::__construct();
    }

    protected function configure(): void
    {
        parent::configure();
        $this->addAsOf();
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $company = $this->company($input);
        $asOf = $this->asOf($input, $company);
        $d = static fn (int $minor): string => self::decimal($minor, $company->baseCurrency);
        self::rows(
            array_map(
                static fn (array $r): array => [
                    'account' => $r['account'],
                    'name' => $r['name'],
                    'debit' => $d($r['debit']),
                    'credit' => $d($r['credit']),
                    'balance' => $d($r['balance']),
                ],
                $this->query->of($company->id(), $asOf),
            ),
            $input,
            $output,
        );

        return self::SUCCESS;
    }
}
