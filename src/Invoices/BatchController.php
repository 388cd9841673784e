<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\ChosenColumns;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Batches, and the grid in which they are entered: one row a document. */
#[Route('/{company}/{side}/batches', requirements: ['company' => '[A-Z0-9]{2,12}', 'side' => 'payables|receivables'])]
final class BatchController extends Screen
{
    /** So many that stay are named in the message, each with its reason; all of them say it in their rows. */
    private const SAID = 3;

    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly BatchQuery $batches,
        private readonly ChosenColumns $columns,
    ) {
    }

    #[Route('', name: 'batches', methods: ['GET'])]
    #[Needs('see')]
    public function list(Desk $desk, Side $side, Request $request): Response
    {
        $rows = $this->batches->list($desk->id(), $side, self::wantsFile($request) ? null : BatchQuery::LISTED);
        if (self::wantsFile($request)) {
            $d = static fn (mixed $minor): string => null === $minor
                ? ''
                : Money::of((int) $minor, $desk->company->baseCurrency)->decimal();

            return $this->exported(
                $request,
                $side->value.'-batches',
                ['name', 'posting_date', 'by', 'state', 'documents', 'control_count', 'total', 'control_total'],
                array_map(
                    static fn (array $r): array => [
                        (string) $r['name'],
                        (string) $r['posting_date'],
                        (string) $r['by_name'],
                        null === $r['posted_at'] ? 'open' : 'posted',
                        (string) $r['n'],
                        (string) $r['control_count'],
                        $d($r['total']),
                        $d($r['control_total']),
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('invoices/batches/list.html.twig', ['side' => $side, 'rows' => $rows]);
    }

    #[Route('/open', name: 'batch_open', methods: ['POST'])]
    #[Needs('enter')]
    public function open(Desk $desk, Side $side, Request $request, SaveBatch $saveBatch): Response
    {
        try {
            $id = $saveBatch->save($desk->actor, $side, $request->request->all());
        } catch (Refused $e) {
            $this->addFlash('refused', $e->getMessage());

            return $this->redirectToRoute('batches', ['company' => $desk->company->code, 'side' => $side->value], 303);
        }

        return $this->redirectToRoute(
            'batch',
            ['company' => $desk->company->code, 'side' => $side->value, 'id' => $id],
            303,
        );
    }

    #[Route('/{id<\d+>}', name: 'batch', methods: ['GET'])]
    #[Needs('see')]
    public function show(Desk $desk, Side $side, int $id, HistoryQuery $history): Response
    {
        return $this->page($desk, $side, $id, $history);
    }

    #[Route('/{id<\d+>}', name: 'batch_save', methods: ['POST'])]
    #[Needs('enter')]
    public function save(
        Desk $desk,
        Side $side,
        int $id,
        Request $request,
        SaveBatch $saveBatch,
        PostBatch $postBatch,
        HistoryQuery $history,
    ): Response {
        $this->batch($desk, $side, $id);
        $here = ['company' => $desk->company->code, 'side' => $side->value, 'id' => $id];
        try {
            switch ((string) $request->request->get('_action')) {
                case 'post':
                    $result = $postBatch->post($desk->actor, $side, $id);
                    $this->say(\sprintf('Posted the whole batch, %s.', Words::count($result['posted'], 'document')));
                    break;
                case 'good':
                    $result = $postBatch->post($desk->actor, $side, $id, true);
                    $this->say(
                        0 === $result['left']
                            ? \sprintf('Posted all %s.', Words::count($result['posted'], 'document'))
                            : \sprintf(
                                'Posted %s; %d %s in the batch. %s%s',
                                Words::count($result['posted'], 'document'),
                                $result['left'],
                                1 === $result['left'] ? 'stays' : 'stay',
                                implode(' ', \array_slice($result['why'], 0, self::SAID)),
                                $result['left'] > self::SAID ? ' The others say why in their rows.' : '',
                            ),
                    );
                    break;
                default:
                    $saveBatch->save($desk->actor, $side, $request->request->all(), $id);
                    $this->say('The batch is changed.');
            }
        } catch (Refused $e) {
            return $this->page($desk, $side, $id, $history, $e->problems);
        }

        return $this->redirectToRoute('batch', $here, 303);
    }

    /** Rows as they are typed or pasted: {"rows": {"3": {...}}} gives {"rows": {"3": what was understood}, "sum": HTML}. */
    #[Route('/{id<\d+>}/rows', name: 'batch_rows', methods: ['POST'])]
    #[Needs('enter')]
    public function rows(Desk $desk, Side $side, int $id, Request $request, KeepRows $keepRows): Response
    {
        $this->batch($desk, $side, $id);
        $data = json_decode($request->getContent(), true);
        $rows = \is_array($data) && \is_array($data['rows'] ?? null) ? array_filter($data['rows'], is_array(...)) : [];
        try {
            $results = $keepRows->keep($desk->actor, $side, $id, $rows, true === ($data['check'] ?? null));
        } catch (Refused $e) {
            return new JsonResponse(['refused' => $e->getMessage()], 422);
        }

        return new JsonResponse([
            'rows' => (object) $results,
            'sum' => $this->renderView('invoices/batches/_sum.html.twig', $this->sums($desk, $side, $id)),
        ]);
    }

    /** @param list<Problem> $problems */
    private function page(Desk $desk, Side $side, int $id, HistoryQuery $history, array $problems = []): Response
    {
        $batch = $this->batch($desk, $side, $id);
        $byDraft = [];
        $general = [];
        foreach ($problems as $p) {
            if (1 === preg_match('/\Adraft\.(\d+)\.(.*)\z/', $p->field, $m)) {
                $byDraft[(int) $m[1]][GridColumn::ofField($m[2])] ??= $p->message;
            } else {
                $general[] = $p;
            }
        }
        $rows = [];
        foreach ($this->batches->documents($desk->id(), $id) as $r) {
            $input = json_decode((string) $r['draft_input'], true);
            $rows[] = [
                ...$r,
                'values' => 'draft' === $r['state'] && \is_array($input) ? GridRow::cells($input) : null,
                'problems' => $byDraft[(int) $r['id']] ?? [],
            ];
        }

        return $this->render(
            'invoices/batches/batch.html.twig',
            [
                'side' => $side,
                'rows' => $rows,
                'columns' => $this->columns($desk, $side, $rows),
                'all_columns' => GridColumn::cases(),
                'problems' => $general,
                'wrong' => \count($byDraft),
                'errors' => self::byField($general),
                'history' => $history->of($desk->id(), 'batch', $id),
                ...$this->sums($desk, $side, $id),
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }

    /** @return array<string, mixed> */
    private function sums(Desk $desk, Side $side, int $id): array
    {
        $sum = $this->batches->sum($id);
        $batch = $this->batch($desk, $side, $id);

        return [
            'batch' => $batch,
            'count' => $sum['count'],
            'entered' => $sum['total'],
            'control_total' => null === $batch->controlTotal
                    ? ''
                    : Money::of($batch->controlTotal, $desk->company->baseCurrency)->decimal(),
            'currency' => $desk->company->baseCurrency,
        ];
    }

    /**
     * The columns that the person has chosen, and those that a row has something in.
     *
     * @param list<array<string, mixed>> $rows
     *
     * @return list<GridColumn>
     */
    private function columns(Desk $desk, Side $side, array $rows): array
    {
        $chosen =
            $this->columns->of($desk->actor, $side->value.'-grid') ??
            array_map(static fn (GridColumn $c): string => $c->value, GridColumn::usual());
        $filled = static fn (GridColumn $c): bool => [] !==
            array_filter(
                $rows,
                static fn (array $r): bool => \is_array($r['values']) && '' !== ($r['values'][$c->value] ?? ''),
            );

        return array_values(
            array_filter(
                GridColumn::cases(),
                static fn (GridColumn $c): bool => $c->isFixed() || \in_array($c->value, $chosen, true) || $filled($c),
            ),
        );
    }

    private function batch(Desk $desk, Side $side, int $id): Batch
    {
        $batch = $this->entities->find(Batch::class, $id);

        return null !== $batch && $batch->companyId === $desk->id() && $batch->side === $side
            ? $batch
            : throw $this->createNotFoundException('There is no such batch in this company.');
    }
}
