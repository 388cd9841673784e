<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Books\LapsedDiscount;
use Nelbix\App\Parties\PartyBanks;
use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Work\JobQuery;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Proposal\Reason;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/**
 * A proposal, from review to posted run: by vendor, with every line and payment. What is done with it is in TrimController and
 * RunController.
 */
#[Route('/{company}/payables/proposal/{id<\d+>}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class ReviewController extends ProposalScreen
{
    /** Up to so many lines every payment stands open; a longer proposal opens them one by one. */
    private const OPEN_LINES = 80;
    private const OUT_LINES = 300;

    public function __construct(private readonly ProposalQuery $query)
    {
    }

    #[Route('', name: 'proposal', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function show(
        Desk $desk,
        int $id,
        Request $request,
        HistoryQuery $history,
        Underneath $underneath,
        PartyBanks $banks,
        RunPapers $papers,
        JobQuery $jobs,
        BankAccounts $accounts,
        LapsedDiscount $lapsed,
    ): Response {
        $proposal = $this->proposal($desk, $id);
        if (self::wantsFile($request)) {
            return $this->asFile($request, $proposal);
        }
        $bank = $this->bank($desk, $proposal, $accounts);
        $people = $this->query->people($id, $desk->user->id());
        $totals = $this->query->totals($id);
        $payments = $this->query->payments($id);
        $opened = $totals['items'] <= self::OPEN_LINES ? null : self::int($request->query, 'open');
        $lines = [];
        foreach (null === $opened || $opened > 0 ? $this->query->lines($id, true, $opened) : [] as $line) {
            $lines[(int) $line['payment']][] = $line;
        }
        $changes = \in_array($proposal->state, [ProposalState::Review, ProposalState::Refused], true)
            ? $underneath->of($id)
            : [];
        $item = self::int($request->query, 'item');
        $picked = 0 === $item ? [] : $this->query->lines($id, null, item: $item);
        $payment = $payments[self::int($request->query, 'payment')] ?? null;

        return $this->render('payables/proposal.html.twig', [
            'proposal' => $proposal,
            'payments' => $payments,
            'lines' => $lines,
            'outs' => $this->query->lines($id, false, null, self::OUT_LINES),
            'totals' => $totals,
            'bank' => $bank,
            'currency' => $people['currency'] ?? $bank->currency,
            'changes' => $changes,
            'digest' => Underneath::digest($changes),
            'may_take' => array_column(TakeIn::MAY, 'value'),
            'people' => $people,
            ...$papers->of($proposal),
            'history' => $history->of($desk->id(), 'proposal', $id),
            'picked' => $picked[0] ?? null,
            'lapsed' => [] === $picked ? 0 : $lapsed->of($item),
            'payment' => $payment,
            'banks' => null === $payment ? [] : $banks->of($payment['party_id']),
            'ways' => PayBy::cases(),
            'job' => ProposalState::Posting === $proposal->state ? $jobs->last('run', $id) : null,
        ]);
    }

    /** What the run does to the bank account and the books, worked out anew; the review asks for it once the lines stand. */
    #[Route('/books', name: 'proposal_books', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function books(Desk $desk, int $id, BankAccounts $accounts, BankOutlook $outlook, RunEntry $entry): Response
    {
        $proposal = $this->proposal($desk, $id);
        $account = $this->bank($desk, $proposal, $accounts);
        $base = $desk->company->baseCurrency;
        $bank = $outlook->of($desk->id(), $account, $base, $desk->today, $proposal->payDate, $id);

        return $this->render('payables/review/_books.html.twig', [
            'st' => $proposal->state->value,
            'bank' => $bank,
            'pay' => ProposalState::Posted === $proposal->state
                    ? 0
                    : $outlook->taken(
                        $desk->id(),
                        $bank,
                        $this->query->totals($id)['pay'],
                        $this->query->currency($id) ?? $account->currency,
                        $proposal->payDate,
                    ),
            'entry' => $entry->of($desk->actor, $proposal),
        ]);
    }

    private function bank(Desk $desk, Proposal $proposal, BankAccounts $accounts): BankRow
    {
        return $accounts->find($desk->id(), $proposal->bankAccountId) ??
            throw new \LogicException('A proposal has a bank account.');
    }

    /** One payment with its lines, for a long proposal. */
    #[Route('/payment/{payment<\d+>}', name: 'proposal_payment', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function payment(Desk $desk, int $id, int $payment, Request $request): Response
    {
        $proposal = $this->proposal($desk, $id);
        $found =
            $this->query->payments($id)[$payment] ??
            throw $this->createNotFoundException('There is no such payment in this proposal.');

        return $this->render('payables/_payment.html.twig', [
            'proposal' => $proposal,
            'p' => $found,
            'cur' => $this->query->currency($id) ?? $desk->company->baseCurrency,
            'rows' => $request->query->getBoolean('open', true) ? $this->query->lines($id, true, $payment) : null,
            'folds' => true,
        ]);
    }

    /** Everything the proposal decided, as a file. */
    private function asFile(Request $request, Proposal $proposal): Response
    {
        $payments = $this->query->payments($proposal->id());

        return $this->exported(
            $request,
            strtolower($proposal->number),
            [
                'payment',
                'vendor',
                'name',
                'document',
                'their_number',
                'due',
                'currency',
                'open',
                'settled',
                'discount',
                'withholding',
                'pay',
                'in',
                'reason',
                'by',
                'note',
            ],
            array_map(
                static function (array $l) use ($payments): array {
                    $d = static fn (int $minor): string => Money::of($minor, $l['currency'])->decimal();
                    $in = $l['is_in'] && !$l['dropped'];
                    $p = $payments[(int) $l['payment']] ?? null;

                    return [
                        (string) $l['payment'],
                        $l['code'],
                        $l['name'],
                        $l['number'],
                        $l['their_number'],
                        $l['due_date'],
                        $l['currency'],
                        $d($l['open']),
                        $d($in ? $l['applied'] : 0),
                        $d($in ? $l['discount'] : 0),
                        $d($in ? $l['withholding'] : 0),
                        $d($in ? $l['pay'] : 0),
                        $in ? 'yes' : 'no',
                        $l['dropped'] ? 'dropped' : Reason::from($l['reason'])->value,
                        null === $p ? '' : $p['pay_by']->words(),
                        $p['note'] ?? '',
                    ];
                },
                [...$this->query->lines($proposal->id(), true), ...$this->query->lines($proposal->id(), false)],
            ),
        );
    }
}
