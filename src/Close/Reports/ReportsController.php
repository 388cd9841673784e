<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Reports;

use Nelbix\App\Close\TrialBalanceQuery;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** What the books say: trial balance, results, balances, journals, analysis. */
#[Route('/{company}/close', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class ReportsController extends ReportScreen
{
    public function __construct(BooksDay $booksDay, PeriodGate $periods, private readonly ReportsQuery $reports)
    {
        parent::__construct($booksDay, $periods);
    }

    #[Route('/trial-balance', name: 'trial_balance', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function trialBalance(Desk $desk, Request $request, TrialBalanceQuery $query): Response
    {
        $span = $this->span($desk, $request);
        $before = 'before' === $request->query->get('close');
        $rows = $query->span($desk->id(), $span->from, $span->to, $before);
        if (self::wantsFile($request)) {
            $d = self::decimals($desk);

            return $this->exported(
                $request,
                'trial-balance-'.$span->to->iso(),
                ['account', 'name', 'opening', 'debit', 'credit', 'closing'],
                array_map(
                    static fn (array $r): array => [
                        $r['account'],
                        $r['name'],
                        $d($r['opening']),
                        $d($r['debit']),
                        $d($r['credit']),
                        $d($r['closing']),
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('close/reports/trial_balance.html.twig', [
            'rows' => $rows,
            'span' => $span,
            'before' => $before,
        ]);
    }

    #[Route('/results', name: 'results', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function results(Desk $desk, Request $request, TrialBalanceQuery $query): Response
    {
        $span = $this->span($desk, $request);
        // what was earned is asked for before the close of a year, what is held after it
        $earned = array_column($query->span($desk->id(), $span->from, $span->to, true), null, 'id');
        $rows = array_map(
            static fn (array $r): array => [
                ...$r,
                'debit' => $earned[$r['id']]['debit'] ?? 0,
                'credit' => $earned[$r['id']]['credit'] ?? 0,
            ],
            $query->span($desk->id(), $span->from, $span->to, false),
        );
        if (self::wantsFile($request)) {
            $d = self::decimals($desk);

            return $this->exported(
                $request,
                'results-'.$span->to->iso(),
                ['type', 'account', 'name', 'movement', 'closing'],
                array_map(
                    static fn (array $r): array => [
                        $r['type'],
                        $r['account'],
                        $r['name'],
                        $d($r['debit'] - $r['credit']),
                        $d($r['closing']),
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('close/reports/results.html.twig', ['rows' => $rows, 'span' => $span]);
    }

    #[Route('/balances', name: 'balances', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function balances(Desk $desk, Request $request, BalancesQuery $query): Response
    {
        $error = null;
        try {
            $asOf = $this->booksDay->asked($desk->id(), $request->query, 'as_of', $desk->today);
        } catch (Refused $e) {
            [$asOf, $error] = [$desk->today, $e->getMessage()];
        }
        $accounts = $query->of($desk->id(), $asOf);
        if (self::wantsFile($request)) {
            $d = self::decimals($desk);
            $rows = [];
            foreach ($accounts as $a) {
                foreach ($a['rows'] as $r) {
                    $rows[] = [$a['account'], $a['name'], $r['party'], $r['name'], $d($r['balance']), $r['documents']];
                }
            }

            return $this->exported(
                $request,
                'balances-'.$asOf->iso(),
                ['account', 'account_name', 'party', 'name', 'balance', 'number_of_documents'],
                $rows,
            );
        }

        return $this->render('close/reports/balances.html.twig', [
            'accounts' => $accounts,
            'as_of' => $asOf,
            'error' => $error,
        ]);
    }

    #[Route('/entries', name: 'entries', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function entries(Desk $desk, Request $request): Response
    {
        $span = $this->span($desk, $request);
        $kind = isset(ReportsQuery::KINDS[$request->query->get('kind')]) ? (string) $request->query->get('kind') : '';
        $batch = self::int($request->query, 'batch') ?: null;
        if (self::wantsFile($request)) {
            $d = self::decimals($desk);
            $rows = (function () use ($desk, $span, $kind, $batch, $d): \Generator {
                $after = null;
                do {
                    $page = $this->reports->entries($desk->id(), $span->from, $span->to, $kind, $batch, $after);
                    foreach ($page['rows'] as $r) {
                        yield [
                            (string) $r['number'],
                            (string) $r['posting_date'],
                            (string) $r['text'],
                            (string) $r['by'],
                            $d((int) $r['amount']),
                        ];
                    }
                    $after = $page['next'];
                } while (null !== $after);
            })();

            return $this->exported(
                $request,
                'entries-'.$span->to->iso(),
                ['number', 'date', 'text', 'by', 'amount'],
                $rows,
            );
        }

        return $this->render('close/reports/entries.html.twig', [
            'page' => $this->reports->entries(
                $desk->id(),
                $span->from,
                $span->to,
                $kind,
                $batch,
                $request->query->getString('after'),
            ),
            'begun' => $request->query->has('after'),
            'span' => $span,
            'kind' => $kind,
            'batch' => $batch,
            'kinds' => array_map(static fn (array $k): string => $k[0], ReportsQuery::KINDS),
        ]);
    }

    #[Route('/analysis', name: 'analysis', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function analysis(Desk $desk, Request $request): Response
    {
        $span = $this->span($desk, $request);
        $by = \in_array($request->query->get('by'), ReportsQuery::ANALYSIS, true)
            ? (string) $request->query->get('by')
            : 'cost_center';
        $rows = $this->reports->analysis($desk->id(), $span->from, $span->to, $by);
        if (self::wantsFile($request)) {
            $d = self::decimals($desk);

            return $this->exported(
                $request,
                'analysis-'.$span->to->iso(),
                [$by, 'name', 'account', 'account_name', 'amount'],
                array_map(
                    static fn (array $r): array => [
                        $r['code'],
                        $r['name'],
                        $r['account'],
                        $r['account_name'],
                        $d($r['base']),
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('close/reports/analysis.html.twig', ['rows' => $rows, 'span' => $span, 'by' => $by]);
    }
}
