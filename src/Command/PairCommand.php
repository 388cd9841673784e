<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Pairing\FileRows;
use Nelbix\App\Pairing\Source;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Pairing\Pair;
use Nelbix\Core\Pairing\Row;
use Nelbix\Core\Pairing\RowPairer;
use Nelbix\Core\Pairing\Spec;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:pair', 'Pairs two files by the rules of a JSON document; the books are not touched')]
final class PairCommand extends CompanyCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->addArgument('spec', InputArgument::REQUIRED, 'a JSON document with fields, turn_sign and rules')
            ->addOption('left', null, InputOption::VALUE_REQUIRED, 'a CSV file')
            ->addOption('right', null, InputOption::VALUE_REQUIRED, 'a CSV file');
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $currency = $this->company($input)->baseCurrency;
        $json = json_decode(self::bytes((string) $input->getArgument('spec'), 'spec'), true);
        if (!\is_array($json)) {
            throw Refused::because('spec', 'The rules are no JSON document.');
        }
        $spec = Spec::of($json, $currency);
        $left = self::read((string) $input->getOption('left'), 'left', 0, $spec, $currency);
        $right = self::read((string) $input->getOption('right'), 'right', 1, $spec, $currency);
        $outcome = RowPairer::pair($left, $right, $spec->rules);
        $pairs = $outcome->pairs;
        usort($pairs, static fn (Pair $a, Pair $b): int => [$a->rule, $a->left] <=> [$b->rule, $b->left]);
        $paired = array_map(
            static fn (Pair $p): array => [
                'left' => $p->left,
                'right' => $p->right,
                'rule' => $p->rule,
                'certain' => $p->certain,
                'difference' => self::decimal($p->difference, $currency),
            ],
            $pairs,
        );
        if ('json' === $input->getOption('format')) {
            self::json(
                ['paired' => $paired, 'over' => ['left' => $outcome->left, 'right' => $outcome->right]],
                $output,
            );

            return self::SUCCESS;
        }
        self::rowsOf($paired, $output);
        $output->writeln(
            \sprintf('over on the left: %s; on the right: %s', self::list($outcome->left), self::list($outcome->right)),
        );

        return self::SUCCESS;
    }

    /** @param list<array{left: list<int>, right: list<int>, rule: int, certain: bool, difference: string}> $paired */
    private static function rowsOf(array $paired, OutputInterface $output): void
    {
        foreach ($paired as $p) {
            $output->writeln(
                \sprintf(
                    '%s = %s  rule %d%s  %s',
                    self::list($p['left']),
                    self::list($p['right']),
                    $p['rule'],
                    $p['certain'] ? '' : ', ask me',
                    $p['difference'],
                ),
            );
        }
    }

    /** @param list<int> $rows */
    private static function list(array $rows): string
    {
        return [] === $rows ? 'none' : implode(' ', $rows);
    }

    private static function bytes(string $file, string $field): string
    {
        $bytes = is_file($file) && is_readable($file) ? file_get_contents($file) : false;

        return false === $bytes
            ? throw Refused::because($field, \sprintf('The file “%s” cannot be read.', $file))
            : $bytes;
    }

    /**
     * @return list<Row> numbered from 1, the sign of the right side turned where the document says so
     *
     * @throws Refused naming line and field
     */
    private static function read(string $file, string $side, int $at, Spec $spec, string $currency): array
    {
        $columns = array_map(static fn (array $c): string => $c[$at], $spec->columns);
        try {
            $read = FileRows::read(self::bytes($file, $side), new Source('file', 0, columns: $columns), $currency);
        } catch (Refused $e) {
            throw Refused::all(
                array_map(
                    static fn (Problem $p): Problem => new Problem(
                        $side.'.'.$p->field,
                        $p->message,
                        $p->line,
                        $p->kind,
                    ),
                    $e->problems,
                ),
            );
        }
        $sign = 1 === $at && $spec->turnSign ? -1 : 1;

        return array_map(
            static fn (array $r, int $n): Row => new Row(
                $n + 1,
                $sign * $r['amount'],
                Day::of($r['date']),
                $r['fields'],
            ),
            $read,
            array_keys($read),
        );
    }
}
