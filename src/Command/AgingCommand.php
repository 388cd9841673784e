<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Books\ItemFilter;
use Nelbix\App\Books\Lookup;
use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\App\Close\AgingQuery;
use Nelbix\Core\Aging\AgingRow;
use Nelbix\Core\Aging\Bucketing;
use Nelbix\Core\Refused;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:aging', 'Ages open items as of a day')]
final class AgingCommand extends CompanyCommand
{
    public function __construct(
        private readonly AgingQuery $query,
        private readonly Lookup $lookup,
        private readonly OpenItemsQuery $items,
    ) {
        parent::__construct();
    }

    protected function configure(): void
    {
        parent::configure();
        $this->addSide();
        $this->addAsOf();
        $this->addOption('by', null, InputOption::VALUE_REQUIRED, 'due, document or posting', 'due')
            ->addOption('buckets', null, InputOption::VALUE_REQUIRED, '', '30,60,90')
            ->addOption('currency', null, InputOption::VALUE_REQUIRED, 'base or document', 'base')
            ->addOption('party', null, InputOption::VALUE_REQUIRED)
            ->addOption('detail', null, InputOption::VALUE_NONE, 'the documents behind it');
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $company = $this->company($input);
        $side = $this->side($input);
        $by = (string) $input->getOption('by');
        if (!isset(AgingQuery::BY[$by])) {
            throw Refused::because('by', 'Age by due, document or posting.');
        }
        $asOf = $this->asOf($input, $company);
        $bucketing = Bucketing::parse((string) $input->getOption('buckets'));
        $partyId =
            null === $input->getOption('party')
                ? null
                : $this->lookup->anyParty($company->id(), $side, (string) $input->getOption('party'));
        $currencies = match ($input->getOption('currency')) {
            'base' => [null],
            'document' => array_map(
                'strval',
                $this->entities
                    ->getConnection()
                    ->fetchFirstColumn(
                        'SELECT DISTINCT currency FROM open_item WHERE company_id = ? AND side = ? ORDER BY currency',
                        [$company->id(), $side->value],
                    ),
            ),
            default => throw Refused::because('currency', 'The currency is base or document.'),
        };
        $rows = [];
        $total = new AgingRow(0, 0, array_fill(0, \count($bucketing->limits) + 1, 0), 0, 0);
        foreach ($currencies as $currency) {
            $in = $currency ?? $company->baseCurrency;
            foreach ($this->query->of($company->id(), $side, $asOf, $bucketing, $by, $currency, $partyId) as $aged) {
                $rows[] = [
                    'party' => $aged['party'],
                    ...null === $currency ? [] : ['currency' => $currency],
                    ...self::columns($aged['row'], $in),
                ];
                $r = $aged['row'];
                $total = new AgingRow(
                    0,
                    $total->notDue + $r->notDue,
                    array_map(static fn (int $a, int $b): int => $a + $b, $total->buckets, $r->buckets),
                    $total->credits + $r->credits,
                    $total->prepayments + $r->prepayments,
                );
            }
        }
        $detail = !$input->getOption('detail')
            ? []
            : array_map(
                static fn (array $r): array => [
                    'party' => $r['party'],
                    'document' => $r['number'],
                    'kind' => $r['kind'],
                    'due' => $r['due_date'],
                    'currency' => $r['currency'],
                    'open' => self::decimal($r['open'], $r['currency']),
                    'open_base' => self::decimal($r['open_base'], $company->baseCurrency),
                ],
                iterator_to_array(
                    $this->items->each(new ItemFilter($company->id(), $side, $asOf, $partyId, order: 'party')),
                    false,
                ),
            );
        $sum = 1 === \count($currencies) ? self::columns($total, $currencies[0] ?? $company->baseCurrency) : [];
        if ('json' === $input->getOption('format')) {
            self::json(
                ['rows' => $rows, 'total' => $sum, ...$input->getOption('detail') ? ['items' => $detail] : []],
                $output,
            );

            return self::SUCCESS;
        }
        self::rows([...$rows, ...[] === $sum ? [] : [['party' => 'total', ...$sum]]], $input, $output);
        if ([] !== $detail) {
            self::rows($detail, $input, $output);
        }

        return self::SUCCESS;
    }

    /** @return array<string, mixed> */
    private static function columns(AgingRow $r, string $currency): array
    {
        $d = static fn (int $minor): string => self::decimal($minor, $currency);

        return [
            'not_due' => $d($r->notDue),
            'buckets' => array_map($d, $r->buckets),
            'credits' => $d($r->credits),
            'prepayments' => $d($r->prepayments),
            'total' => $d($r->total()),
        ];
    }
}
