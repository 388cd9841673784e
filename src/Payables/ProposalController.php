<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Formats\AmountInWords;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Proposal\Reason;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Payment proposals: ask, review, approve, print, say what printed, post. */
#[Route('/{company}/payables', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class ProposalController extends Screen
{
    public function __construct(private readonly EntityManagerInterface $entities, private readonly Connection $db, private readonly CriteriaReader $reader, private readonly MakeProposal $makeProposal)
    {
    }

    #[Route('/proposals', name: 'proposals', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function list(Desk $desk, Request $request): Response
    {
        $rows = $this->db->fetchAllAssociative(
            'SELECT p.id, p.number, p.state, p.pay_date, p.method, u.name AS made_by, d.name AS decided_by, b.name AS bank, b.currency, COUNT(DISTINCT l.payment) AS payments, COALESCE(SUM(l.pay), 0) AS pay, COALESCE(SUM(l.discount), 0) AS discount
             FROM proposal p JOIN app_user u ON u.id = p.created_by_id LEFT JOIN app_user d ON d.id = p.decided_by_id JOIN bank_account b ON b.id = p.bank_account_id LEFT JOIN proposal_line l ON l.proposal_id = p.id AND l.is_in = 1 AND l.dropped = 0
             WHERE p.company_id = ? GROUP BY p.id, p.number, p.state, p.pay_date, p.method, u.name, d.name, b.name, b.currency ORDER BY p.id DESC LIMIT 200', [$desk->id()]);
        if (self::wantsFile($request)) {
            $d = static fn (array $r, string $key): string => Money::of((int) $r[$key], (string) $r['currency'])->decimal();

            return $this->exported($request, 'payment-proposals', ['number', 'state', 'pay_date', 'bank', 'method', 'made_by', 'decided_by', 'payments', 'currency', 'discount', 'pay'], array_map(static fn (array $r): array => [(string) $r['number'], (string) $r['state'], (string) $r['pay_date'], (string) $r['bank'], (string) $r['method'], (string) $r['made_by'], (string) $r['decided_by'], (string) $r['payments'], (string) $r['currency'], $d($r, 'discount'), $d($r, 'pay')], $rows));
        }

        return $this->render('payables/proposals.html.twig', ['rows' => $rows]);
    }

    #[Route('/proposal', name: 'proposal_new', methods: ['GET'])]
    #[Needs(Permission::PayVendors)]
    public function ask(Desk $desk, Request $request): Response
    {
        $raw = $request->query->all();
        $problems = [];
        $result = null;
        $criteria = null;
        try {
            ['criteria' => $criteria] = $this->reader->read($desk->actor, $raw);
            $result = $this->makeProposal->workOut($desk->actor, $criteria);
        } catch (Refused $e) {
            $problems = $e->problems;
        }
        $numbers = null === $result ? [] : $this->numbers($desk, array_map(static fn ($d): int => $d->candidate->item->id, [...$result->in, ...$result->out]));
        $bank = $this->db->fetchAssociative('SELECT b.*, COALESCE((SELECT SUM(base) FROM journal_line l WHERE l.account_id = b.account_id AND l.posting_date <= ?), 0) AS balance FROM bank_account b WHERE b.company_id = ? AND b.retired = 0 AND (b.code = ? OR ? = \'\') ORDER BY b.code LIMIT 1', [$desk->today->iso(), $desk->id(), (string) ($raw['bank'] ?? ''), (string) ($raw['bank'] ?? '')]);
        $parameters = ['raw' => $raw, 'criteria' => $criteria, 'result' => $result, 'numbers' => $numbers, 'bank' => $bank, 'errors' => self::byField($problems), 'problems' => $problems, 'methods' => CriteriaReader::METHODS,
            'banks' => $this->db->fetchAllKeyValue('SELECT code, name FROM bank_account WHERE company_id = ? AND retired = 0 ORDER BY code', [$desk->id()])];

        return $this->render('payables/proposal_new.html.twig', $parameters, new Response(null, [] === $problems ? 200 : 422));
    }

    #[Route('/proposal', name: 'proposal_make', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function make(Desk $desk, Request $request): Response
    {
        $raw = $request->request->all();
        try {
            ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = $this->reader->read($desk->actor, $raw);
            $spoken = array_filter(array_map(static fn (mixed $v): string => \is_array($v) ? implode(' ', array_map(static fn (mixed $w): string => \is_string($w) ? $w : '', $v)) : (string) $v, array_filter($raw, static fn (string|int $k): bool => '_' !== ((string) $k)[0], \ARRAY_FILTER_USE_KEY)));
            $id = $this->makeProposal->make($desk->actor, $criteria, $bank, $method, $spoken, mb_substr((string) $request->request->get('_key', ''), 0, 64) ?: null);
        } catch (Refused $e) {
            $this->addFlash('refused', $e->getMessage());

            return $this->redirectToRoute('proposal_new', ['company' => $desk->company->code, ...array_filter($raw, static fn (mixed $v, string|int $k): bool => \is_string($v) && '_' !== ((string) $k)[0], \ARRAY_FILTER_USE_BOTH)], 303);
        }
        $this->say('Proposal made. Its items are reserved; somebody else must approve it before checks are printed.');

        return $this->redirectToRoute('proposal', ['company' => $desk->company->code, 'id' => $id], 303);
    }

    #[Route('/proposal/{id<\d+>}', name: 'proposal', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function show(Desk $desk, int $id, History $history): Response
    {
        $proposal = $this->proposal($desk, $id);
        $lines = $this->lines($id);
        $bank = $this->db->fetchAssociative('SELECT b.*, COALESCE((SELECT SUM(base) FROM journal_line l WHERE l.account_id = b.account_id AND l.posting_date <= ?), 0) AS balance FROM bank_account b WHERE b.id = ?', [$desk->today->iso(), $proposal->bankAccountId]) ?: throw new \LogicException();
        $totals = ['gross' => 0, 'discount' => 0, 'credits' => 0, 'withholding' => 0, 'pay' => 0, 'lost' => 0];
        $out = [];
        foreach ($lines as $l) {
            if ($l['is_in'] && !$l['dropped']) {
                $totals[$l['open'] > 0 ? 'gross' : 'credits'] += abs($l['applied']);
                $totals['discount'] += $l['discount'];
                $totals['withholding'] += $l['withholding'];
                $totals['pay'] += $l['pay'];
            } else {
                $totals['lost'] += $l['stake'];
                $why = $l['dropped'] ? 'dropped' : $l['why'];
                $out[$why] = ($out[$why] ?? 0) + 1;
            }
        }

        return $this->render('payables/proposal.html.twig', [
            'proposal' => $proposal, 'lines' => $lines, 'totals' => $totals, 'bank' => $bank, 'out' => $out, 'people' => $this->db->fetchAssociative('SELECT a.name AS made, b.name AS decided FROM proposal p JOIN app_user a ON a.id = p.created_by_id LEFT JOIN app_user b ON b.id = p.decided_by_id WHERE p.id = ?', [$id]),
            'touched' => (bool) $this->db->fetchOne("SELECT 1 FROM history WHERE company_id = ? AND subject = 'proposal' AND subject_id = ? AND user_id = ?", [$desk->id(), $id, $desk->user->id()]),
            'checks' => $this->db->fetchAllAssociative('SELECT k.*, p.name AS payee FROM bank_check k LEFT JOIN party p ON p.id = k.party_id WHERE k.proposal_id = ? ORDER BY k.number', [$id]),
            'books' => $this->db->fetchAllAssociative('SELECT id, name, next_number FROM check_book WHERE bank_account_id = ? ORDER BY name', [$proposal->bankAccountId]), 'history' => $history->of($desk->id(), 'proposal', $id),
        ]);
    }

    #[Route('/proposal/{id<\d+>}/change', name: 'proposal_change', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function change(Desk $desk, int $id, Request $request, ChangeProposal $change, PrintChecks $print, PostRun $run): Response
    {
        $proposal = $this->proposal($desk, $id);

        return $this->act(static function () use ($desk, $id, $proposal, $request, $change, $print, $run): string {
            $ids = array_values(array_filter(array_map('intval', $request->request->all('items'))));
            switch ((string) $request->request->get('_action')) {
                case 'drop':
                case 'restore':
                    if ([] === $ids) {
                        throw Refused::because('items', 'Pick at least one row first.');
                    }
                    $drop = 'drop' === $request->request->get('_action');
                    $change->change($desk->actor, $id, $ids, $drop);

                    return $drop ? \sprintf('%d dropped; free for other proposals and settlements.', \count($ids)) : \sprintf('%d back in.', \count($ids));
                case 'drop_all':
                    $change->dropAll($desk->actor, $id);

                    return \sprintf('Proposal %s is dropped. All its items are free.', $proposal->number);
                case 'print':
                    $print->print($desk->actor, $id, $request->request->getInt('check_book'), $request->request->getInt('first_number'));

                    return 'The numbers are reserved and the checks are ready. Open the PDF, print it, then say what came out.';
                case 'printed':
                    $again = $print->sayWhatPrinted($desk->actor, $id, array_values(array_map('intval', $request->request->all('spoiled'))), (string) $request->request->get('reason', ''));

                    return 0 === $again ? 'All checks came out. The run can be posted.' : \sprintf('%d spoiled; their payments have the next numbers. Print those, then say what came out.', $again);
                case 'post':
                    $count = $run->post($desk->actor, $id);

                    return \sprintf('Posted %d payments of proposal %s. Payables fell; the checks are issued.', $count, $proposal->number);
                default:
                    throw Refused::because('', 'There is no such action.');
            }
        }, 'proposal', ['company' => $desk->company->code, 'id' => $id]);
    }

    #[Route('/proposal/{id<\d+>}/decide', name: 'proposal_decide', methods: ['POST'])]
    #[Needs(Permission::Approve)]
    public function decide(Desk $desk, int $id, Request $request, DecideProposal $decide): Response
    {
        $proposal = $this->proposal($desk, $id);
        $approve = 'approve' === $request->request->get('_action');

        return $this->act(static function () use ($desk, $id, $proposal, $approve, $request, $decide): string {
            $decide->decide($desk->actor, $id, $approve, (string) $request->request->get('reason', ''));

            return $approve ? \sprintf('%s is approved; its checks can be printed.', $proposal->number) : \sprintf('%s goes back with your reason.', $proposal->number);
        }, 'proposal', ['company' => $desk->company->code, 'id' => $id]);
    }

    #[Route('/proposal/{id<\d+>}/checks.pdf', name: 'proposal_checks', methods: ['GET'])]
    #[Needs(Permission::PayVendors)]
    public function checks(Desk $desk, int $id, Paper $paper): Response
    {
        $proposal = $this->proposal($desk, $id);
        $checks = [];
        foreach ($this->db->fetchAllAssociative("SELECT k.*, p.name, p.street, p.city, p.country, b.name AS bank, b.currency FROM bank_check k JOIN party p ON p.id = k.party_id JOIN check_book c ON c.id = k.check_book_id JOIN bank_account b ON b.id = c.bank_account_id WHERE k.proposal_id = ? AND k.state IN ('reserved', 'printed', 'issued') ORDER BY k.number", [$id]) as $k) {
            $checks[(int) $k['payment']] = [...$k, 'words' => AmountInWords::of(Money::of((int) $k['amount'], (string) $k['currency'])), 'lines' => []];
        }
        // after a jam only those that wait for the clerk's word are printed again
        if (array_filter($checks, static fn (array $k): bool => 'reserved' === $k['state'])) {
            $checks = array_filter($checks, static fn (array $k): bool => 'reserved' === $k['state']);
        }
        if ([] === $checks) {
            throw $this->createNotFoundException('No checks are printed for this run yet.');
        }
        foreach ($this->lines($id) as $l) {
            if ($l['is_in'] && !$l['dropped'] && isset($checks[(int) $l['payment']])) {
                $checks[(int) $l['payment']]['lines'][] = $l;
            }
        }

        return $paper->pdf('payables/checks_pdf.html.twig', ['company' => $desk->company, 'checks' => array_values($checks)], 'checks-'.$proposal->number);
    }

    private function proposal(Desk $desk, int $id): Proposal
    {
        $proposal = $this->entities->find(Proposal::class, $id);
        if (!$proposal instanceof Proposal || $proposal->companyId !== $desk->id()) {
            throw $this->createNotFoundException('There is no such proposal in this company.');
        }

        return $proposal;
    }

    /** @return list<array{id: int, item_id: int, payment: ?int, is_in: bool, dropped: bool, reason: string, why: string, open: int, original: int, applied: int, discount: int, withholding: int, pay: int, stake: int, number: string, their_number: string, document_id: int, due_date: string, document_date: string, currency: string, code: string, name: string, party_id: int, reserved_by: ?string}> */
    private function lines(int $id): array
    {
        /** @var list<array{id: int, item_id: int, payment: ?int, is_in: bool, dropped: bool, reason: string, why: string, open: int, original: int, applied: int, discount: int, withholding: int, pay: int, stake: int, number: string, their_number: string, document_id: int, due_date: string, document_date: string, currency: string, code: string, name: string, party_id: int, reserved_by: ?string}> */
        return array_map(static fn (array $r): array => [...$r, 'is_in' => (bool) $r['is_in'], 'dropped' => (bool) $r['dropped'], 'open' => (int) $r['open'], 'original' => (int) $r['original'], 'applied' => (int) $r['applied'], 'discount' => (int) $r['discount'], 'withholding' => (int) $r['withholding'], 'pay' => (int) $r['pay'], 'stake' => (int) $r['stake'], 'why' => Reason::from((string) $r['reason'])->words()], $this->db->fetchAllAssociative(
            'SELECT l.id, l.item_id, l.payment, l.is_in, l.dropped, l.reason, l.open, l.applied, i.original, l.discount, l.withholding, l.pay, l.stake, i.number, d.their_number, d.id AS document_id, i.due_date, i.document_date, i.currency, p.code, p.name, p.id AS party_id, r.number AS reserved_by
             FROM proposal_line l JOIN open_item i ON i.id = l.item_id JOIN document d ON d.id = i.document_id JOIN party p ON p.id = i.party_id LEFT JOIN proposal r ON r.id = i.reserved_by_id AND r.id <> l.proposal_id
             WHERE l.proposal_id = ? ORDER BY l.is_in DESC, p.code, l.payment, i.due_date, i.id', [$id]));
    }

    /**
     * @param list<int> $itemIds
     *
     * @return array<int, array{their_number: string, name: string, document_id: int}>
     */
    private function numbers(Desk $desk, array $itemIds): array
    {
        /** @var array<int, array{their_number: string, name: string, document_id: int}> */
        return [] === $itemIds ? [] : $this->db->fetchAllAssociativeIndexed('SELECT i.id, d.their_number, p.name, d.id AS document_id FROM open_item i JOIN document d ON d.id = i.document_id JOIN party p ON p.id = i.party_id WHERE i.company_id = ? AND i.id IN ('.implode(',', $itemIds).')', [$desk->id()]);
    }
}
