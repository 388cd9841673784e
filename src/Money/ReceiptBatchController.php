<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Batches of receipts with their control totals. */
#[Route('/{company}/receivables/receipt-batches', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class ReceiptBatchController extends Screen
{
    public function __construct(private readonly ReceiptBatches $batches, private readonly BankAccounts $banks)
    {
    }

    #[Route('', name: 'receipt_batches', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function list(Desk $desk, Request $request): Response
    {
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'receipt-batches',
                ['name', 'day', 'bank', 'state', 'receipts', 'control_count', 'currency', 'total', 'control_total'],
                array_map(
                    static fn (array $r): array => [
                        $r['name'],
                        $r['posting_date'],
                        $r['bank'],
                        $r['closed'] ? 'closed' : 'open',
                        (string) $r['count'],
                        (string) $r['control_count'],
                        $r['currency'],
                        Money::of($r['total'], $r['currency'])->decimal(),
                        null === $r['control_total'] ? '' : Money::of($r['control_total'], $r['currency'])->decimal(),
                    ],
                    $this->batches->of($desk->id(), 100_000),
                ),
            );
        }

        return $this->page($desk, []);
    }

    #[Route('', name: 'receipt_batch_begin', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function begin(Desk $desk, Request $request): Response
    {
        $raw = $request->request->all();
        try {
            $id = $this->batches->begin($desk->actor, $raw, FormKey::of($request));
        } catch (Refused $e) {
            return $this->page($desk, $raw, $e->problems);
        }
        $batch = $this->batches->one($desk->id(), $id) ?? throw new \LogicException();

        return $this->redirectToRoute(
            'board',
            [
                'company' => $desk->company->code,
                'side' => 'receivables',
                'mode' => 'receipt',
                'batch' => $id,
                'bank' => $batch['bank_code'],
                'date' => Typography::day($batch['posting_date']),
            ],
            303,
        );
    }

    #[Route('/{id<\d+>}', name: 'receipt_batch', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function show(Desk $desk, int $id): Response
    {
        $batch =
            $this->batches->one($desk->id(), $id) ??
            throw $this->createNotFoundException('There is no such batch of receipts in this company.');

        return $this->render('money/receipt_batch.html.twig', [
            'batch' => $batch,
            'off' => ReceiptBatches::off($batch),
            'receipts' => $this->batches->receipts($id),
        ]);
    }

    #[Route('/{id<\d+>}/close', name: 'receipt_batch_close', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function close(Desk $desk, int $id, Request $request): Response
    {
        if (null === $this->batches->one($desk->id(), $id)) {
            throw $this->createNotFoundException('There is no such batch of receipts in this company.');
        }

        return $this->act(
            function () use ($desk, $id, $request): string {
                $this->batches->close($desk->actor, $id, (string) $request->request->get('why', ''));

                return 'The batch is closed.';
            },
            'receipt_batch',
            ['company' => $desk->company->code, 'id' => $id],
        );
    }

    /**
     * @param array<mixed> $raw
     * @param list<Problem> $problems
     */
    private function page(Desk $desk, array $raw, array $problems = []): Response
    {
        return $this->render(
            'money/receipt_batches.html.twig',
            [
                'rows' => $this->batches->of($desk->id()),
                'banks' => $this->banks->names($desk->id()),
                'form' => $raw,
                'problems' => $problems,
                'errors' => self::byField($problems),
                'key' => FormKey::goOn($raw),
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }
}
