<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\Core\TieOut\Explanation;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:tie-out', 'Control accounts against open items')]
final class TieOutCommand extends CompanyCommand
{
    public function __construct(private readonly TieOutQuery $query)
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
                    'role' => $r['role']->value,
                    'ledger' => $d($r['tie']->ledger),
                    'items' => $d($r['tie']->items),
                    'difference' => $d($r['tie']->difference()),
                    'break_day' => $r['tie']->breakDay,
                    'explained_by' => array_map(
                        static fn (Explanation $e): array => [
                            'entry' => $e->source,
                            'date' => $e->date,
                            'amount' => $d($e->amount),
                            'why' => $e->why,
                        ],
                        $r['tie']->explainedBy,
                    ),
                ],
                $this->query->of($company->id(), $asOf),
            ),
            $input,
            $output,
        );

        return self::SUCCESS;
    }
}
