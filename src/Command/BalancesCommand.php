<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Close\Reports\BalancesQuery;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:balances', 'Balances by control account and party as of a day')]
final class BalancesCommand extends CompanyCommand
{
    public function __construct(private readonly BalancesQuery $query)
    {
        parent::__construct();
    }

    protected function configure(): void
    {
        parent::configure();
        $this->addAsOf();
        $this->addOption('account', null, InputOption::VALUE_REQUIRED, 'only this account');
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $company = $this->company($input);
        $only = $input->getOption('account');
        $rows = [];
        foreach ($this->query->of($company->id(), $this->asOf($input, $company)) as $account) {
            foreach (null === $only || $only === $account['account'] ? $account['rows'] : [] as $r) {
                $rows[] = [
                    'account' => $account['account'],
                    'party' => $r['party'],
                    'balance' => self::decimal($r['balance'], $company->baseCurrency),
                    'documents' => $r['documents'],
                ];
            }
        }
        self::rows($rows, $input, $output);

        return self::SUCCESS;
    }
}
