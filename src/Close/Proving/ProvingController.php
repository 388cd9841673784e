<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Proving;

use Nelbix\App\Close\Period\ClosingGates;
use Nelbix\App\Close\Reports\Span;
use Nelbix\App\Close\TieOut\SignOffs;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Proof that can be handed on: the history with the seal beside it, the report of a close, a controller's figures. */
#[Route('/{company}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class ProvingController extends Screen
{
    #[Route('/close/history', name: 'history', methods: ['GET'])]
    #[Needs(Permission::SeeSetup)]
    public function history(Desk $desk, Request $request, HistoryListQuery $query, BooksDay $booksDay): Response
    {
        $text = static fn (string $key): string => mb_substr(trim((string) $request->query->get($key, '')), 0, 80);
        $asked = ['who' => $text('who'), 'what' => $text('what'), 'text' => $text('text'), 'from' => '', 'to' => ''];
        $error = null;
        foreach (['from', 'to'] as $field) {
            try {
                $asked[$field] =
                    '' === $text($field) ? '' : $booksDay->input($desk->id())->read($text($field), $field)->iso();
            } catch (Refused $e) {
                $error = $e->getMessage();
            }
        }
        if (self::wantsFile($request) && $request->query->has('packed')) {
            return $this->exported(
                $request,
                'history-packed',
                ['at', 'by', 'record', 'id', 'action', 'detail'],
                $query->packed($desk->id(), $asked),
            );
        }
        if (self::wantsFile($request)) {
            $rows = (static function () use ($desk, $query, $asked): \Generator {
                $after = null;
                do {
                    ['rows' => $page, 'next' => $after] = $query->page($desk->id(), $asked, $after, 2000);
                    foreach ($page as $h) {
                        yield [
                            (string) $h['happened_at'],
                            (string) $h['by'],
                            (string) $h['subject'],
                            (string) ($h['number'] ?? ($h['entry'] ?? ($h['party'] ?? $h['subject_id']))),
                            (string) $h['action'],
                            (string) $h['detail'],
                        ];
                    }
                } while (null !== $after);
            })();

            return $this->exported($request, 'history', ['at', 'by', 'record', 'number', 'action', 'detail'], $rows);
        }

        return $this->render('close/history.html.twig', [
            'page' => $query->page($desk->id(), $asked, $request->query->getString('after')),
            'begun' => $request->query->has('after'),
            'asked' => $asked,
            'error' => $error,
            'subjects' => $query->subjects($desk->id()),
            'seal' => $query->seal($desk->id()),
            'packed_through' => $query->packedThrough($desk->id()),
        ]);
    }

    #[Route('/close/report/{id<\d+>}', name: 'close_report', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function report(
        Desk $desk,
        int $id,
        PeriodGate $periods,
        ClosingGates $gates,
        SignOffs $signOffs,
        HistoryListQuery $history,
        Paper $paper,
        ClockInterface $clock,
    ): Response {
        $period =
            array_values(
                array_filter($periods->of($desk->id()), static fn (array $p): bool => $id === (int) $p['id']),
            )[0] ?? throw $this->createNotFoundException('There is no such period in this company.');
        $last = Day::of((string) $period['last_day']);

        return $paper->pdf(
            'close/report_pdf.html.twig',
            [
                'company' => $desk->company,
                'period' => $period,
                'gates' => $gates->of($desk->id(), $desk->company->baseCurrency, (int) $period['year'], $last),
                'signed' => array_values(
                    array_filter(
                        $signOffs->of($desk->id()),
                        static fn (array $s): bool => $s['as_of'] >= $period['first_day']
                            && $s['as_of'] <= $period['last_day'],
                    ),
                ),
                'seal' => $history->seal($desk->id()),
                'at' => $clock->now(),
                'by' => $desk->user,
            ],
            \sprintf('close-%d-%02d', $period['year'], $period['number']),
        );
    }

    #[Route('/{side}/figures', name: 'figures', requirements: ['side' => 'payables|receivables'], methods: ['GET'])]
    #[Needs('see')]
    public function figures(
        Desk $desk,
        Side $side,
        Request $request,
        FiguresQuery $query,
        BooksDay $booksDay,
        PeriodGate $periods,
    ): Response {
        $span = Span::asked($desk, $request, $booksDay, $periods);
        $days = $query->daysToPay($desk->id(), $side->value, $span->from, $span->to);
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                $side->value.'-days-to-pay-'.$span->to->iso(),
                ['party', 'name', 'settled', 'days_to_pay', 'days_over', 'number_of_documents'],
                array_map(
                    static fn (array $r): array => [
                        $r['party'],
                        $r['name'],
                        Money::of($r['settled'], $desk->company->baseCurrency)->decimal(),
                        $r['days'],
                        $r['late'],
                        $r['documents'],
                    ],
                    $days,
                ),
            );
        }

        return $this->render('close/figures.html.twig', [
            'side' => $side,
            'span' => $span,
            'days' => $days,
            'discounts' => $query->discounts($desk->id(), $side->value, $span->from, $span->to),
            'party_id' => ($party = self::int($request->query, 'party')),
            'documents' => 0 === $party ? [] : $query->documents($desk->id(), $side->value, $party, $span->from, $span->to),
            'most' => FiguresQuery::MOST,
            'alike' => $query->lookAlikes($desk->id(), $side->value, $span->from, $span->to),
        ]);
    }
}
