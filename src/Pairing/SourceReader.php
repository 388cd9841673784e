<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Books\Lookup;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\Permission;
use Nelbix\Core\Formats\Statement\CsvMapping;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** What a side of a set is, as it was typed: of a company in which the person may see it. */
final readonly class SourceReader
{
    public function __construct(
        private Lookup $lookup,
        private Chart $chart,
        private BankAccounts $banks,
        private BooksDay $booksDay,
    ) {
    }

    /**
     * @param array<mixed> $raw
     *
     * @throws Refused for a company that the person does not work in, or a side they do not see there
     */
    public function read(Desk $desk, array $raw): Source
    {
        $text = (new Fields($raw))->text(...);
        $company = '' === $text('company') ? $desk->company : $desk->user->company(strtoupper($text('company')));
        if (!$company instanceof Company) {
            throw Refused::because(
                'company',
                'There is no such company, or you do not work in it.',
                ProblemKind::Unknown,
            );
        }
        $since =
            '' === $text('since')
                ? ''
                : $this->booksDay
                    ->asked(
                        $company->id(),
                        new \Symfony\Component\HttpFoundation\ParameterBag(['since' => $text('since')]),
                        'since',
                        $desk->today,
                    )
                    ->iso();
        $kind = $text('kind');
        $side = Side::tryFrom($text('side'));
        if (\in_array($kind, ['items', 'documents'], true)) {
            if (null === $side || !$desk->user->may(Permission::see($side), $company)) {
                throw Refused::because(
                    'side',
                    'Choose payables or receivables, of those that you see in that company.',
                );
            }

            return new Source(
                $kind,
                $company->id(),
                $side,
                '' === $text('party')
                    ? null
                    : $this->lookup->party($company->id(), $side, $text('party'), 'party')->id(),
                since: $since,
            );
        }
        if (!$desk->user->may(Permission::SeeLedger, $company)) {
            throw Refused::because('company', 'You do not see the ledger of that company.');
        }

        return match ($kind) {
            'account' => new Source(
                $kind,
                $company->id(),
                id: $this->chart->any($company->id(), $text('account'), 'account'),
                since: $since,
            ),
            'bank' => new Source(
                $kind,
                $company->id(),
                id: $this->banks->named($company->id(), $text('bank'), 'bank')->id,
                since: $since,
            ),
            'file' => $this->file($company, $raw, $text),
            default => throw Refused::because('kind', 'Choose what the rows of this side are.', ProblemKind::Missing),
        };
    }

    /**
     * @param array<mixed> $raw
     * @param \Closure(string): string $text
     */
    private function file(Company $company, array $raw, \Closure $text): Source
    {
        if (1 !== preg_match('/\A\d{1,9}\z/', $text('file'))) {
            throw Refused::because('file', 'Choose the file of this side.', ProblemKind::Missing);
        }
        $columns = [];
        foreach (\is_array($raw['columns'] ?? null) ? $raw['columns'] : [] as $field => $heading) {
            if (\is_string($field) && \is_string($heading) && '' !== trim($heading)) {
                $columns[mb_substr($field, 0, 40)] = mb_substr(trim($heading), 0, 120);
            }
        }
        foreach (['amount', 'date'] as $needed) {
            if (!isset($columns[$needed])) {
                throw Refused::because(
                    'columns.'.$needed,
                    \sprintf('Say which column holds the %s.', $needed),
                    ProblemKind::Missing,
                );
            }
        }

        return new Source(
            'file',
            $company->id(),
            id: (int) $text('file'),
            columns: $columns,
            days: isset(CsvMapping::DAYS[$text('days')]) ? $text('days') : 'Y-m-d',
            decimal: ',' === $text('decimal') ? ',' : '.',
        );
    }
}
