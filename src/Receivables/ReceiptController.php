<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Typography;
use Nelbix\App\Settlement\PostMoney;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** The receipt: money that came in, and the board on which it is placed. */
#[Route('/{company}/receivables/receipt', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class ReceiptController extends Screen
{
    public function __construct(private readonly ReceiptReader $reader, private readonly PostMoney $postMoney, private readonly Chart $chart, private readonly Connection $db, private readonly PeriodGate $periods)
    {
    }

    #[Route('', name: 'receipt_new', methods: ['GET'])]
    #[Needs(Permission::EnterReceivables)]
    public function enter(Desk $desk, Request $request): Response
    {
        return $this->board($desk, ['party' => mb_substr((string) $request->query->get('party', ''), 0, 20), 'date' => $desk->today->long(), 'bank' => '']);
    }

    #[Route('/live', name: 'receipt_live', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function live(Desk $desk, Request $request): Response
    {
        return $this->render('receivables/receipt_live.html.twig', $this->worked($desk, $request->request->all()));
    }

    #[Route('', name: 'receipt_post', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function post(Desk $desk, Request $request): Response
    {
        $raw = $request->request->all();
        $board = $this->reader->read($desk, $raw);
        $problems = $board->problems;
        $id = null;
        try {
            if ([] === $problems && null !== $board->input) {
                $this->periods->mustBeOpen($desk->id(), $board->date, [Side::Receivables], 'date');
                $id = $this->postMoney->post($desk->actor, $board->input, mb_substr((string) $request->request->get('_key', ''), 0, 64) ?: null);
            }
        } catch (Refused $e) {
            $problems = $e->problems;
        }
        if (null === $id) {
            return $this->board($desk, $raw, [] === $problems ? [new Problem('party', 'The customer is missing; choose one.')] : $problems);
        }
        $number = (string) $this->db->fetchOne('SELECT number FROM document WHERE id = ?', [$id]);
        $this->say(\sprintf('Posted %s. Receivables fell by %s %s; %s %s. Undo the settlement on this page if it was placed wrongly.', $number, Typography::amount($board->amount + array_sum($board->discount) + array_sum($board->small), $board->currency), $board->currency, Typography::amount($board->left(), $board->currency), \Nelbix\Core\Ledger\DocumentKind::Prepayment === $board->input?->kind ? 'is a prepayment' : 'stays unapplied'));

        return $this->redirectToRoute('document', ['company' => $desk->company->code, 'side' => 'receivables', 'id' => $id], 303);
    }

    /**
     * @param array<mixed>  $raw
     * @param list<Problem> $problems
     */
    private function board(Desk $desk, array $raw, array $problems = []): Response
    {
        return $this->render('receivables/receipt.html.twig', [...$this->worked($desk, $raw), 'problems' => $problems, 'errors' => self::byField($problems), 'key' => \is_string($raw['_key'] ?? null) ? $raw['_key'] : bin2hex(random_bytes(16)),
            'banks' => $this->db->fetchAllKeyValue('SELECT code, name FROM bank_account WHERE company_id = ? AND retired = 0 ORDER BY code', [$desk->id()])], new Response(null, [] === $problems ? 200 : 422));
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array<string, mixed>
     */
    private function worked(Desk $desk, array $raw): array
    {
        $board = $this->reader->read($desk, $raw);
        $preview = null;
        $refusal = null;
        if (null !== $board->input && $board->amount > 0) {
            try {
                $preview = $this->postMoney->preview($desk->actor, $board->input, $board->items);
            } catch (Refused $e) {
                $refusal = $e->getMessage();
            }
        }
        $typed = array_filter($board->problems, static fn (Problem $p): bool => !str_contains($p->message, 'missing'));

        return ['board' => $board, 'form' => $board->form, 'preview' => $preview, 'refusal' => $refusal, 'typed' => self::byField(array_values($typed)), 'accounts' => $this->chart->accounts($desk->id())];
    }
}
