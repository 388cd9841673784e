<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Aging;

use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\KeptViews;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\RememberedFilters;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Aging\AgingRow;
use Nelbix\Core\Aging\Bucketing;
use Nelbix\Core\Aging\Credits;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemList;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** The aging of a side, the items behind each of its figures, and the views that a person keeps of it. */
#[Route('/{company}/{side}/aging', requirements: ['company' => '[A-Z0-9]{2,12}', 'side' => 'payables|receivables'])]
final class AgingController extends Screen
{
    private const ASKED = ['as_of', 'by', 'buckets', 'rows', 'in', 'credits', 'at_least'];

    public function __construct(
        private readonly BooksDay $booksDay,
        private readonly AgingQuery $query,
        private readonly AgingItems $items,
        private readonly RememberedFilters $remembered,
    ) {
    }

    #[Route('', name: 'aging', methods: ['GET'])]
    #[Needs('see')]
    public function aging(Desk $desk, Side $side, Request $request, KeptViews $views): Response
    {
        [$criteria, $errors, $asked] = $this->criteria($desk, $side, $request);
        $byDocument = AgingBy::Document === $criteria->rows;
        if ($byDocument && self::wantsFile($request)) {
            return $this->itemsFile($desk, $request, $criteria, null);
        }
        $lines = $this->query->lines($criteria);
        if (self::wantsFile($request)) {
            return $this->linesFile($request, $criteria, $lines, $desk->company->baseCurrency);
        }
        $totals = AgingQuery::totals($lines, $criteria->bucketing);
        $plain = 0 === $criteria->atLeast && !$criteria->inDocumentCurrency;

        return $this->render('close/aging.html.twig', [
            'side' => $side,
            'criteria' => $criteria,
            'asked' => $asked,
            'errors' => $errors,
            'lines' => $byDocument ? [] : $lines,
            'page' => $byDocument ? $this->items->page($criteria, null, $request->query->getString('after')) : null,
            'begun' => $request->query->has('after'),
            'totals' => $totals,
            'most' => self::scale($lines),
            'controls' => $this->query->controls($desk->id(), $side, $criteria->asOf),
            'all' => $plain
                ? ($totals[''] ?? AgingRow::zero($criteria->bucketing))->total()
                : $this->query->all($criteria),
            'choices' => ['rows' => AgingBy::cases(), 'credits' => Credits::cases()],
            'views' => $views->of($desk->actor, 'aging '.$side->value),
        ]);
    }

    #[Route('/items', name: 'aging_items', methods: ['GET'])]
    #[Needs('see')]
    public function behind(Desk $desk, Side $side, Request $request): Response
    {
        [$criteria, $errors, $asked] = $this->criteria($desk, $side, $request);
        $cell = AgingCell::asked($request->query, $criteria) ?? new AgingCell(null);
        if (self::wantsFile($request)) {
            return $this->itemsFile($desk, $request, $criteria, $cell);
        }
        $line = array_values(
            array_filter(
                $this->query->lines($criteria),
                static fn (AgingLine $l): bool => (null === $cell->key || $l->key === $cell->key)
                    && (null === $cell->currency || '' === $l->currency || $l->currency === $cell->currency),
            ),
        );

        return $this->render('close/aging_items.html.twig', [
            'side' => $side,
            'criteria' => $criteria,
            'asked' => $asked,
            'errors' => $errors,
            'cell' => $cell,
            'name' => null === $cell->key ? null : $line[0]->name ?? '',
            'sums' => array_map(
                static fn (AgingRow $r): int => self::inColumn($r, $cell->column),
                AgingQuery::totals($line, $criteria->bucketing),
            ),
            'page' => $this->items->page($criteria, $cell, $request->query->getString('after')),
            'begun' => $request->query->has('after'),
        ]);
    }

    #[Route('/view', name: 'aging_view', methods: ['POST'])]
    #[Needs('see')]
    public function view(Desk $desk, Side $side, Request $request, KeptViews $views): Response
    {
        $list = 'aging '.$side->value;
        $name = trim($request->request->getString('view_name'));
        $asked = self::asked($request->request, self::ASKED);

        return $this->act(
            function () use ($desk, $views, $list, $name, $asked, $request): string {
                if ('drop' === $request->request->get('do')) {
                    $views->drop($desk->actor, $list, $name);

                    return \sprintf('Dropped the view “%s”.', $name);
                }
                $views->keep($desk->actor, $list, $name, $asked);

                return \sprintf('Kept as “%s”, for yourself.', $name);
            },
            'aging',
            ['company' => $desk->company->code, 'side' => $side->value, ...$asked],
        );
    }

    /** @return array{AgingCriteria, array<string, string>, array<string, string>} with what was wrong, and what to ask again with */
    private function criteria(Desk $desk, Side $side, Request $request): array
    {
        $kept = $this->remembered->of($desk, $request, 'aging '.$side->value, self::ASKED);
        $problems = new ProblemList();
        $asOf =
            $problems->attempt(
                fn () => '' === $kept['as_of']
                    ? $desk->today
                    : $this->booksDay->input($desk->id())->read($kept['as_of'], 'as_of'),
            ) ?? $desk->today;
        $bucketing =
            $problems->attempt(
                static fn (): Bucketing => Bucketing::parse('' === $kept['buckets'] ? '30,60,90' : $kept['buckets']),
            ) ?? new Bucketing([30, 60, 90]);
        $atLeast = 1 === preg_match('/\A\d{1,4}\z/', $kept['at_least']) ? (int) $kept['at_least'] : 0;
        if ('' !== $kept['at_least'] && (string) $atLeast !== $kept['at_least']) {
            $problems->add('at_least', 'Give a number of days, such as 30, or leave it empty.');
        }
        $criteria = new AgingCriteria(
            $desk->id(),
            $side,
            $asOf,
            $bucketing,
            isset(AgingCriteria::BY[$kept['by']]) ? $kept['by'] : 'due',
            AgingBy::tryFrom($kept['rows']) ?? AgingBy::Party,
            'document' === $kept['in'],
            Credits::tryFrom($kept['credits']) ?? $this->query->usual($desk->id()),
            min($atLeast, AgingCriteria::MOST_DAYS),
        );

        return [
            $criteria,
            self::byField($problems->all),
            [
                'as_of' => $asOf->iso(),
                'by' => $criteria->by,
                'buckets' => $bucketing->text(),
                'rows' => $criteria->rows->value,
                'in' => $criteria->inDocumentCurrency ? 'document' : 'base',
                'credits' => $criteria->credits->value,
                'at_least' => 0 === $criteria->atLeast ? '' : (string) $criteria->atLeast,
            ],
        ];
    }

    /** @param list<AgingLine> $lines */
    private function linesFile(Request $request, AgingCriteria $criteria, array $lines, string $base): Response
    {
        $rows = array_map(static function (AgingLine $l) use ($base): array {
            $in = '' === $l->currency ? $base : $l->currency;
            $d = static fn (int $v): string => Money::of($v, $in)->decimal();

            return [
                $l->code,
                $l->name,
                ...'' === $l->currency ? [] : [$in],
                $d($l->row->notDue),
                ...array_map($d, $l->row->buckets),
                $d($l->row->credits),
                $d($l->row->prepayments),
                $d($l->row->total()),
            ];
        }, $lines);

        return $this->exported(
            $request,
            $criteria->side->value.'-aging-'.$criteria->asOf->iso(),
            [
                AgingBy::Party === $criteria->rows ? 'party' : $criteria->rows->value,
                'name',
                ...$criteria->inDocumentCurrency ? ['currency'] : [],
                'not_due',
                ...$criteria->bucketing->labels($criteria->asOf),
                'credits',
                'prepayments',
                'total',
            ],
            $rows,
        );
    }

    private function itemsFile(Desk $desk, Request $request, AgingCriteria $criteria, ?AgingCell $cell): Response
    {
        $base = $desk->company->baseCurrency;
        $labels = $criteria->bucketing->labels($criteria->asOf);
        $rows = (function () use ($criteria, $cell, $base, $labels): \Generator {
            foreach ($this->items->each($criteria, $cell) as $i) {
                yield [
                    $i['party'],
                    $i['party_name'],
                    $i['number'],
                    $i['their_number'],
                    $i['kind'],
                    $i['document_date'],
                    $i['due_date'],
                    $i['days'],
                    ctype_digit($i['column']) ? $labels[(int) $i['column']] : $i['column'],
                    $i['currency'],
                    Money::of($i['open'], $i['currency'])->decimal(),
                    Money::of($i['open_base'], $base)->decimal(),
                ];
            }
        })();

        return $this->exported(
            $request,
            $criteria->side->value.'-aging-items-'.$criteria->asOf->iso(),
            [
                'party',
                'name',
                'number',
                'their_number',
                'kind',
                'document_date',
                'due_date',
                'days',
                'bucket',
                'currency',
                'open',
                'open_base',
            ],
            $rows,
        );
    }

    private static function inColumn(AgingRow $row, string $column): int
    {
        return match ($column) {
            'not_due' => $row->notDue,
            'credits' => $row->credits,
            'prepayments' => $row->prepayments,
            'total' => $row->total(),
            default => $row->buckets[(int) $column] ?? 0,
        };
    }

    /**
     * One common scale for all bands: the most that is owed on a line, and the most credit.
     *
     * @param list<AgingLine> $lines
     *
     * @return array{owed: int, credit: int}
     */
    private static function scale(array $lines): array
    {
        $most = ['owed' => 1, 'credit' => 0];
        foreach ($lines as $line) {
            $r = $line->row;
            $owed = array_map(static fn (int $b): int => max(0, $b), [$r->notDue, ...$r->buckets]);
            $most = [
                'owed' => max($most['owed'], array_sum($owed)),
                'credit' => max($most['credit'], -$r->credits - $r->prepayments),
            ];
        }

        return $most;
    }
}
