<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Reports;

use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Tax by code and period with the documents behind it; what was withheld by vendor and year. */
#[Route('/{company}/close', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class TaxReportController extends ReportScreen
{
    public function __construct(BooksDay $booksDay, PeriodGate $periods, private readonly ReportsQuery $reports)
    {
        parent::__construct($booksDay, $periods);
    }

    #[Route('/tax', name: 'tax_report', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function tax(Desk $desk, Request $request): Response
    {
        $span = $this->span($desk, $request);
        $code = self::int($request->query, 'code');
        $rows = $this->reports->tax($desk->id(), $span->from, $span->to);
        if (self::wantsFile($request)) {
            $d = self::decimals($desk);

            return $this->exported(
                $request,
                'tax-'.$span->to->iso(),
                ['period', 'code', 'use', 'net', 'tax', 'recoverable', 'number_of_documents'],
                array_map(
                    static fn (array $r): array => [
                        \sprintf('%d/%02d', $r['year'], $r['number']),
                        $r['code'],
                        $r['use'],
                        $d($r['net']),
                        $d($r['tax']),
                        $d($r['recoverable']),
                        $r['documents'],
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('close/reports/tax.html.twig', [
            'rows' => $rows,
            'span' => $span,
            'code' => $code,
            'documents' => 0 === $code ? [] : $this->reports->taxDocuments($desk->id(), $code, $span->from, $span->to),
        ]);
    }

    #[Route('/withheld', name: 'withheld', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function withheld(Desk $desk, Request $request): Response
    {
        $span = $this->span($desk, $request);
        $rows = $this->reports->withheld($desk->id(), $span->from, $span->to);
        if (self::wantsFile($request)) {
            $d = self::decimals($desk);

            return $this->exported(
                $request,
                'withheld-'.$span->to->iso(),
                ['year', 'party', 'name', 'withheld', 'number_of_settlements'],
                array_map(
                    static fn (array $r): array => [
                        $r['year'],
                        $r['party'],
                        $r['name'],
                        $d($r['withheld']),
                        $r['settlements'],
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('close/reports/withheld.html.twig', ['rows' => $rows, 'span' => $span]);
    }
}
