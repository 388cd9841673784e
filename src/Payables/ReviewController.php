<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Parties\PartyBanks;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Work\JobQuery;
use Nelbix\App\Work\JobState;
use Nelbix\App\Work\Worker;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Proposal\Reason;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** A proposal under review: by vendor, with every line and payment to be changed, approved, printed and posted. */
#[Route('/{company}/payables/proposal/{id<\d+>}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class ReviewController extends Screen
{
    /** Up to so many lines every payment stands open; a longer proposal opens them one by one. */
    private const OPEN_LINES = 80;
    private const OUT_LINES = 300;

    public function __construct(private readonly EntityManagerInterface $entities, private readonly Connection $db, private readonly ProposalQuery $query)
    {
    }

    #[Route('', name: 'proposal', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function show(Desk $desk, int $id, Request $request, History $history, Underneath $underneath, PartyBanks $banks, SendToPrinter $printer, JobQuery $jobs, BankOutlook $outlook, LapsedDiscount $lapsed): Response
    {
        $proposal = $this->proposal($desk, $id);
        $bank = $outlook->of($desk->id(), $proposal->bankAccountId, $desk->today, $proposal->payDate, $id);
        if (self::wantsFile($request)) {
            return $this->asFile($request, $proposal);
        }
        $totals = $this->query->totals($id);
        $payments = $this->query->payments($id);
        $opened = $totals['items'] <= self::OPEN_LINES ? null : $request->query->getInt('open');
        $lines = [];
        foreach (null === $opened || $opened > 0 ? $this->query->lines($id, true, $opened) : [] as $line) {
            $lines[(int) $line['payment']][] = $line;
        }
        $changes = \in_array($proposal->state, [ProposalState::Review, ProposalState::Refused], true) ? $underneath->of($id) : [];
        $item = $request->query->getInt('item');
        $picked = 0 === $item ? [] : $this->query->lines($id, null, item: $item);
        $payment = $payments[$request->query->getInt('payment')] ?? null;

        return $this->render('payables/proposal.html.twig', [
            'proposal' => $proposal, 'payments' => $payments, 'lines' => $lines, 'outs' => $this->query->lines($id, false, null, self::OUT_LINES), 'totals' => $totals, 'bank' => $bank, 'changes' => $changes, 'digest' => Underneath::digest($changes), 'may_take' => array_column(TakeIn::MAY, 'value'),
            'people' => $this->db->fetchAssociative("SELECT a.name AS made, b.name AS decided, EXISTS (SELECT 1 FROM history h WHERE h.company_id = p.company_id AND h.subject = 'proposal' AND h.subject_id = p.id AND h.user_id = ?) AS touched FROM proposal p JOIN app_user a ON a.id = p.created_by_id LEFT JOIN app_user b ON b.id = p.decided_by_id WHERE p.id = ?", [$desk->user->id(), $id]),
            'checks' => ProposalState::Printed === $proposal->state ? $this->db->fetchAllAssociative('SELECT k.*, p.name AS payee FROM bank_check k LEFT JOIN party p ON p.id = k.party_id WHERE k.proposal_id = ? ORDER BY k.number', [$id]) : [],
            'books' => ProposalState::Approved === $proposal->state ? $this->db->fetchAllAssociative('SELECT id, name, next_number FROM check_book WHERE bank_account_id = ? ORDER BY name', [$proposal->bankAccountId]) : [], 'history' => $history->of($desk->id(), 'proposal', $id),
            'picked' => $picked[0] ?? null, 'lapsed' => [] === $picked ? 0 : $lapsed->of($item), 'payment' => $payment, 'banks' => null === $payment ? [] : $banks->of($payment['party_id']), 'ways' => PayBy::cases(), 'outcome' => ProposalState::Printed === $proposal->state ? $printer->outcome($id) : [],
            'job' => ProposalState::Posting === $proposal->state ? $jobs->last('run', $id) : null,
            'files' => ProposalState::Posted === $proposal->state ? $this->db->fetchAllAssociative('SELECT id, number, format, payments, amount, sent_at FROM bank_file WHERE proposal_id = ? ORDER BY id', [$id]) : [],
        ]);
    }

    /** One payment with its lines, for a long proposal. */
    #[Route('/payment/{payment<\d+>}', name: 'proposal_payment', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function payment(Desk $desk, int $id, int $payment, Request $request): Response
    {
        $proposal = $this->proposal($desk, $id);
        $found = $this->query->payments($id)[$payment] ?? throw $this->createNotFoundException('There is no such payment in this proposal.');

        return $this->render('payables/_payment.html.twig', ['proposal' => $proposal, 'p' => $found, 'rows' => $request->query->getBoolean('open', true) ? $this->query->lines($id, true, $payment) : null, 'folds' => true]);
    }

    #[Route('/change', name: 'proposal_change', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function change(Desk $desk, int $id, Request $request, ChangeProposal $change, TakeIn $takeIn, TurnAround $turnAround, ChangeLine $changeLine, ChangePayment $changePayment, AcceptChanges $accept, PrintChecks $print, SendToPrinter $printer, StartRun $run, Worker $worker, JobQuery $jobs): Response
    {
        $proposal = $this->proposal($desk, $id);
        $back = array_filter(['item' => $request->request->getInt('item'), 'payment' => $request->request->getInt('payment')]);

        return $this->act(static function () use ($desk, $id, $proposal, $request, $change, $takeIn, $turnAround, $changeLine, $changePayment, $accept, $print, $printer, $run, $worker, $jobs): ?string {
            $ids = array_values(array_filter(array_map('intval', $request->request->all('items'))));
            $action = (string) $request->request->get('_action');
            if ([] === $ids && \in_array($action, ['drop', 'restore', 'take', 'turn'], true)) {
                throw Refused::because('items', 'Pick at least one row first.');
            }
            switch ($action) {
                case 'drop':
                case 'restore':
                    $change->change($desk->actor, $id, $ids, 'drop' === $action);

                    return 'drop' === $action ? \sprintf('%d dropped; free for other proposals and settlements.', \count($ids)) : \sprintf('%d back in.', \count($ids));
                case 'take':
                    $takeIn->take($desk->actor, $id, $ids);

                    return \sprintf('%d taken in.', \count($ids));
                case 'turn':
                    $turnAround->turn($desk->actor, $id, $ids);

                    return \sprintf('%d turned around, as the other criteria have them.', \count($ids));
                case 'line':
                    $changeLine->change($desk->actor, $id, $request->request->getInt('item'), (string) $request->request->get('pay', ''), $request->request->getBoolean('discount'), $request->request->getBoolean('lapsed'));

                    return 'The line is changed.';
                case 'reset_line':
                    $changeLine->change($desk->actor, $id, $request->request->getInt('item'), '', true);

                    return 'The line is back to what the rules gave.';
                case 'payment':
                    $changePayment->change($desk->actor, $id, $request->request->getInt('payment'), array_intersect_key($request->request->all(), array_flip(['pay_by', 'bank', 'reference', 'note'])));

                    return 'The payment is changed.';
                case 'accept':
                    $accept->accept($desk->actor, $id, (string) $request->request->get('digest', ''));

                    return 'What changed underneath is accepted; the proposal can be approved.';
                case 'drop_all':
                    $change->dropAll($desk->actor, $id);

                    return \sprintf('Proposal %s is dropped. All its items are free.', $proposal->number);
                case 'print':
                    $print->print($desk->actor, $id, $request->request->getInt('check_book'), $request->request->getInt('first_number'));

                    return 'The numbers are reserved and the checks are ready. Send them to the printer or open the PDF, then say what came out.';
                case 'printer':
                    $job = $printer->send($desk->actor, $id);

                    return null === $job['jammed'] ? \sprintf('%d pages came out of the printer. Look at them and say so.', $job['pages']) : \sprintf('The printer jammed at page %d of %d. Look at the paper and say what came out.', $job['jammed'], $job['pages']);
                case 'printed':
                    $again = $print->sayWhatPrinted($desk->actor, $id, array_values(array_map('intval', $request->request->all('spoiled'))), (string) $request->request->get('reason', ''), array_values(array_map('intval', $request->request->all('blank'))));

                    return 0 === $again ? 'All checks came out. The run can be posted.' : \sprintf('%d wait for the printer, spoiled ones under the next numbers. Print those, then say what came out.', $again);
                case 'post':
                    $job = $run->start($desk->actor, $id);
                    // a short run is posted before the page is there again; of a long one the page shows how far it is
                    $state = $worker->slice($job);
                    $count = $jobs->last('run', $id)['done'] ?? 0;

                    return JobState::Done === $state ? \sprintf('Posted %d payments of proposal %s. Payables fell.', $count, $proposal->number) : null;
                default:
                    throw Refused::because('', 'There is no such action.');
            }
        }, 'proposal', ['company' => $desk->company->code, 'id' => $id, ...$back]);
    }

    #[Route('/decide', name: 'proposal_decide', methods: ['POST'])]
    #[Needs(Permission::Approve)]
    public function decide(Desk $desk, int $id, Request $request, DecideProposal $decide): Response
    {
        $proposal = $this->proposal($desk, $id);
        $approve = 'approve' === $request->request->get('_action');

        return $this->act(static function () use ($desk, $id, $proposal, $approve, $request, $decide): string {
            $decide->decide($desk->actor, $id, $approve, (string) $request->request->get('reason', ''));

            return $approve ? \sprintf('%s is approved; it can be printed and posted.', $proposal->number) : \sprintf('%s goes back with your reason.', $proposal->number);
        }, 'proposal', ['company' => $desk->company->code, 'id' => $id]);
    }

    /** Everything the proposal decided, as a file. */
    private function asFile(Request $request, Proposal $proposal): Response
    {
        $payments = $this->query->payments($proposal->id());

        return $this->exported($request, strtolower($proposal->number), ['payment', 'vendor', 'name', 'document', 'their_number', 'due', 'currency', 'open', 'settled', 'discount', 'withholding', 'pay', 'in', 'reason', 'by', 'note'], array_map(static function (array $l) use ($payments): array {
            $d = static fn (int $minor): string => Money::of($minor, $l['currency'])->decimal();
            $in = $l['is_in'] && !$l['dropped'];
            $p = $payments[(int) $l['payment']] ?? null;

            return [(string) $l['payment'], $l['code'], $l['name'], $l['number'], $l['their_number'], $l['due_date'], $l['currency'], $d($l['open']), $d($in ? $l['applied'] : 0), $d($in ? $l['discount'] : 0), $d($in ? $l['withholding'] : 0), $d($in ? $l['pay'] : 0), $in ? 'yes' : 'no', $l['dropped'] ? 'dropped' : Reason::from($l['reason'])->value, null === $p ? '' : $p['pay_by']->words(), $p['note'] ?? ''];
        }, [...$this->query->lines($proposal->id(), true), ...$this->query->lines($proposal->id(), false)]));
    }

    private function proposal(Desk $desk, int $id): Proposal
    {
        $proposal = $this->entities->find(Proposal::class, $id);
        if (!$proposal instanceof Proposal || $proposal->companyId !== $desk->id()) {
            throw $this->createNotFoundException('There is no such proposal in this company.');
        }

        return $proposal;
    }
}
