<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Close\Revaluation\PostRevaluation;
use Nelbix\App\Close\Revaluation\ProposeRevaluation;
use Nelbix\Core\Refused;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:revalue', 'What open items in other currencies are worth as of a day, and posts the difference')]
final class RevalueCommand extends CompanyCommand
{
    public function __construct(private readonly ProposeRevaluation $propose, private readonly PostRevaluation $post)
    {
        parent::__construct();
    }

    protected function configure(): void
    {
        parent::configure();
        $this->addAsOf();
        $this->addOption('post', null, InputOption::VALUE_NONE, 'post it on the day, taken back on the next');
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $company = $this->company($input);
        $asOf = $this->asOf($input, $company);
        $proposed = $this->propose->of($company->id(), $company->baseCurrency, $asOf);
        if ([] !== $proposed->missing) {
            throw Refused::because(
                'rates',
                \sprintf('There is no rate of %s on or before %s.', implode(', ', $proposed->missing), $asOf->iso()),
            );
        }
        if ($input->getOption('post')) {
            $this->post->post($this->actor($input), $asOf, $proposed->digest());
        }
        self::rows(
            array_map(
                static fn (array $r): array => [
                    'document' => $r['name'],
                    'currency' => $r['currency'],
                    'open' => self::decimal($r['open'], $r['currency']),
                    'open_base' => self::decimal($r['old'], $company->baseCurrency),
                    'closing_rate' => $proposed->rates[$r['currency']]['rate'],
                    'worth' => self::decimal($r['new'], $company->baseCurrency),
                    'difference' => self::decimal($r['difference'], $company->baseCurrency),
                ],
                $proposed->rows('item'),
            ),
            $input,
            $output,
        );

        return self::SUCCESS;
    }
}
