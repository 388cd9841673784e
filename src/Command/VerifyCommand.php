<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Close\Seal\CheckSeal;
use Nelbix\App\Close\Seal\SealHead;
use Nelbix\App\Close\Verify;
use Nelbix\App\Platform\Company;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\ConsoleOutputInterface;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:verify', 'Checks what must always hold; all companies unless one is named')]
final class VerifyCommand extends CompanyCommand
{
    public function __construct(
        private readonly Verify $verify,
        private readonly VerifyApart $apart,
        private readonly CheckSeal $seal,
    ) {
        parent::__construct();
    }

    protected function configure(): void
    {
        parent::configure();
        $this->addOption('at-once', null, InputOption::VALUE_REQUIRED, 'so many companies at once, a process each', '1')
            ->addOption(
                'head',
                null,
                InputOption::VALUE_REQUIRED,
                'a head of the seal that was written down: N:HASH; of one company',
            )
            ->addOption('print-head', null, InputOption::VALUE_NONE, 'say the head of the seal, to be kept outside');
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $companies = $this->companies($input);
        if ($input->getOption('print-head')) {
            self::rows($this->heads($companies), $input, $output);

            return self::SUCCESS;
        }
        $head = null === $input->getOption('head') ? null : SealHead::read((string) $input->getOption('head'));
        // each company has a seal of its own
        $companies = null === $head ? $companies : [$this->company($input)];
        $atOnce = (int) $input->getOption('at-once');
        $tell = static function (string $line) use ($output): void {
            $output instanceof ConsoleOutputInterface ? $output->getErrorOutput()->writeln($line) : null;
        };
        $rows = [];
        if ($atOnce > 1 && \count($companies) > 1) {
            $rows = $this->apart->of(array_map(static fn ($c): string => $c->code, $companies), $atOnce, $tell);
        } else {
            foreach ($companies as $company) {
                $begun = microtime(true);
                foreach ($this->verify->each($company->id(), $head) as $check => $findings) {
                    $rows[] = [
                        'company' => $company->code,
                        'check' => $check,
                        'what' => Verify::CHECKS[$check],
                        'holds' => [] === $findings ? 'yes' : 'NO',
                        'found' => $findings,
                    ];
                    $tell(
                        \sprintf(
                            '%s: check %d of %d after %.1f s',
                            $company->code,
                            $check,
                            \count(Verify::CHECKS),
                            microtime(true) - $begun,
                        ),
                    );
                }
            }
        }
        self::rows($rows, $input, $output);

        return [] === array_filter($rows, static fn (array $r): bool => 'yes' !== $r['holds'])
            ? self::SUCCESS
            : self::FAILURE;
    }

    /**
     * @param list<Company> $companies
     *
     * @return list<array{company: string, head: string}> of those of which anything is sealed
     */
    private function heads(array $companies): array
    {
        $heads = [];
        foreach ($companies as $company) {
            $head = $this->seal->head($company->id());
            if (null !== $head) {
                $heads[] = ['company' => $company->code, 'head' => $head->words()];
            }
        }

        return $heads;
    }
}
