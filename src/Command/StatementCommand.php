<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Banking\Statement\Option;
use Nelbix\App\Banking\Statement\StatementWithFinds;
use Nelbix\Core\Refused;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand(
    'nelbix:statement',
    'Takes a statement of the bank in and says what was found for its lines; posts nothing',
),]
final class StatementCommand extends CompanyCommand
{
    public function __construct(private readonly StatementWithFinds $take, private readonly BankAccounts $banks)
    {
        parent::__construct();
    }

    protected function configure(): void
    {
        parent::configure();
        $this->addArgument('file', InputArgument::REQUIRED)
            ->addOption('bank', null, InputOption::VALUE_REQUIRED, 'code of the bank account; the first by default', '')
            ->addOption(
                'read-as',
                null,
                InputOption::VALUE_REQUIRED,
                'camt053, mt940, bai2, ofx or csv; what the file says by default',
                '',
            )
            ->addOption('dry-run', null, InputOption::VALUE_NONE, 'look only');
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $company = $this->company($input);
        $file = (string) $input->getArgument('file');
        $bytes = is_file($file) && is_readable($file) ? file_get_contents($file) : false;
        if (false === $bytes) {
            throw Refused::because('file', \sprintf('The file “%s” cannot be read.', $file));
        }
        $bank = $this->banks->named($company->id(), (string) $input->getOption('bank'));
        $statements = $this->take->take(
            $this->actor($input),
            $bank,
            $bytes,
            (string) $input->getOption('read-as'),
            (bool) $input->getOption('dry-run'),
        );
        $d = static fn (mixed $minor): string => self::decimal((int) $minor, $bank->currency);
        $said = array_map(
            static fn (array $s): array => [
                'opening' => $d($s['statement']['opening']),
                'closing' => $d($s['statement']['closing']),
                'lines' => array_map(
                    static fn (array $l): array => [
                        'day' => $l['line']['day'],
                        'amount' => $d($l['line']['amount']),
                        'text' => trim($l['line']['party'].' '.$l['line']['text']),
                        'found' => self::found($l['options'], $l['sure']),
                    ],
                    $s['lines'],
                ),
            ],
            $statements,
        );
        if ('json' === $input->getOption('format')) {
            self::json(1 === \count($said) ? $said[0] : $said, $output);

            return self::SUCCESS;
        }
        foreach ($said as $s) {
            $output->writeln(\sprintf('opens with %s, closes with %s', $s['opening'], $s['closing']));
            self::rows(
                array_map(
                    static fn (array $l): array => [
                        ...array_diff_key($l, ['found' => 0]),
                        'found' => null === $l['found'] ? '' : $l['found']['with'][0].' ('.$l['found']['reason'].')',
                        'sure' => true === ($l['found']['sure'] ?? false) ? 'sure' : '',
                    ],
                    $s['lines'],
                ),
                $input,
                $output,
            );
        }

        return self::SUCCESS;
    }

    /**
     * @param list<Option> $options
     *
     * @return array{kind: string, reason: string, sure: bool, with: non-empty-list<string>}|null
     */
    private static function found(array $options, bool $sure): ?array
    {
        return [] === $options
            ? null
            : [
                'kind' => $options[0]->choice->found->value ?? 'hand',
                'reason' => $options[0]->reason,
                'sure' => $sure,
                'with' => array_map(static fn (Option $o): string => $o->label, $options),
            ];
    }
}
