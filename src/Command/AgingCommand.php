<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Books\Lookup;
use Nelbix\App\Close\Aging\AgingCriteria;
use Nelbix\App\Close\Aging\AgingItems;
use Nelbix\App\Close\Aging\AgingLine;
use Nelbix\App\Close\Aging\AgingQuery;
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
        private readonly AgingItems $items,
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
        if (!isset(AgingCriteria::BY[$by])) {
            throw Refused::because('by', 'Age by due, document or posting.');
        }
        $asOf = $this->asOf($input, $company);
        $bucketing = Bucketing::parse((string) $input->getOption('buckets'));
        $partyId =
            null === $input->getOption('party')
                ? null
                : $this->lookup->anyParty($company->id(), $side, (string) $input->getOption('party'));
        $criteria = new AgingCriteria(
            $company->id(),
            $side,
            $asOf,
            $bucketing,
            $by,
            inDocumentCurrency: match ($input->getOption('currency')) {
                'base' => false,
                'document' => true,
                default => throw Refused::because('currency', 'The currency is base or document.'),
            },
            credits: $this->query->usual($company->id()),
            partyId: $partyId,
        );
        $lines = $this->query->lines($criteria);
        $rows = array_map(
            static fn (AgingLine $l): array => [
                'party' => $l->code,
                ...'' === $l->currency ? [] : ['currency' => $l->currency],
                ...self::columns($l->row, $l->currency ?: $company->baseCurrency),
            ],
            $lines,
        );
        $totals = AgingQuery::totals($lines, $bucketing);
        $sum = match (true) {
            \count($totals) > 1 => [],
            [] === $totals => self::columns(AgingRow::zero($bucketing), $company->baseCurrency),
            default => self::columns(current($totals), key($totals) ?: $company->baseCurrency),
        };
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
                iterator_to_array($this->items->each($criteria, null), false),
            );
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
