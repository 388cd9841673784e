<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** The journal of a batch before it is posted. */
#[Route('/{company}/{side}/batches', requirements: ['company' => '[A-Z0-9]{2,12}', 'side' => 'payables|receivables'])]
final class BatchJournalController extends Screen
{
    /** So many entries stand on the page; the file has them all. */
    private const MOST = 100;

    public function __construct(private readonly EntityManagerInterface $entities)
    {
    }

    #[Route('/{id<\d+>}/journal', name: 'batch_journal', methods: ['GET'])]
    #[Needs('see')]
    public function journal(Desk $desk, Side $side, int $id, Request $request, BatchJournal $journal): Response
    {
        $batch = $this->entities->find(Batch::class, $id);
        if (null === $batch || $batch->companyId !== $desk->id() || $batch->side !== $side) {
            throw $this->createNotFoundException('There is no such batch in this company.');
        }
        if (null !== $batch->postedAt) {
            $this->say('The batch is posted.');
            $here = ['company' => $desk->company->code, 'side' => $side->value, 'id' => $id];

            return $this->redirectToRoute('batch', $here, 303);
        }
        $planned = $journal->of($desk->actor, $side, $id);
        if (self::wantsFile($request)) {
            $d = static fn (int $v): string => Money::of($v, $desk->company->baseCurrency)->decimal();
            $rows = [];
            foreach ($planned['entries'] as $e) {
                foreach ($e['lines'] as $l) {
                    $rows[] = [
                        $e['label'],
                        $e['day'],
                        $l['account'],
                        $l['name'],
                        $l['text'],
                        $d(max(0, $l['base'])),
                        $d(max(0, -$l['base'])),
                    ];
                }
            }

            return $this->exported(
                $request,
                'batch-journal-'.$id,
                ['document', 'date', 'account', 'name', 'text', 'debit', 'credit'],
                $rows,
            );
        }

        return $this->render('invoices/batches/journal.html.twig', [
            'side' => $side,
            'batch' => $batch,
            'most' => self::MOST,
            ...$planned,
        ]);
    }
}
