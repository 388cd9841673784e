<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\DepositSlip;
use Nelbix\App\Books\JournalQuery;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\Source;
use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Money on hand, and the deposit slips that take it to the bank. */
#[Route('/{company}/receivables/on-hand', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class DepositController extends Screen
{
    public function __construct(private readonly OnHandQuery $onHand, private readonly BooksDay $booksDay)
    {
    }

    #[Route('', name: 'on_hand', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function list(Desk $desk, Request $request): Response
    {
        $error = null;
        try {
            $day = $this->booksDay->asked($desk->id(), $request->query, 'as_of', $desk->today);
        } catch (Refused $e) {
            [$day, $error] = [$desk->today, $e->getMessage()];
        }
        $rows = $this->onHand->of($desk->id(), $day);
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'money-on-hand',
                [
                    'bank',
                    'number',
                    'day',
                    'customer',
                    'name',
                    'how',
                    'their_number',
                    'text',
                    'currency',
                    'amount',
                    'base',
                ],
                array_map(
                    static fn (array $r): array => [
                        $r['bank'],
                        $r['number'],
                        $r['day'],
                        $r['code'],
                        $r['name'],
                        $r['method'],
                        $r['their_number'],
                        $r['reference'],
                        $r['currency'],
                        Money::of($r['amount'], $r['currency'])->decimal(),
                        Money::of($r['base'], $desk->company->baseCurrency)->decimal(),
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('money/on_hand.html.twig', [
            'rows' => $rows,
            'as_of' => $day,
            'error' => $error,
            'ledger' => $this->onHand->ledger($desk->id(), $day),
            'slips' => $this->onHand->slips($desk->id()),
            'key' => FormKey::goOn([]),
        ]);
    }

    #[Route('', name: 'deposit_make', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function make(Desk $desk, Request $request, MakeDeposit $deposit, EntityManagerInterface $entities): Response
    {
        try {
            $id = $deposit->deposit(
                $desk->actor,
                array_values(array_filter($request->request->all('receipts'), 'is_string')),
                $this->booksDay->asked($desk->id(), $request->request, 'date', $desk->today),
                FormKey::of($request),
            );
        } catch (Refused $e) {
            $this->refused($e);

            return $this->redirectToRoute('on_hand', ['company' => $desk->company->code], 303);
        }
        $slip = $entities->find(DepositSlip::class, $id) ?? throw new \LogicException();
        $bank = $entities->find(\Nelbix\App\Bank\BankAccount::class, $slip->bankAccountId);
        $this->say(
            \sprintf(
                'Closed %s. %s rose by %s %s, money on hand fell.',
                $slip->number,
                $bank?->name,
                Typography::amount($slip->amount, (string) $bank?->currency),
                $bank?->currency,
            ),
        );

        return $this->redirectToRoute('deposit', ['company' => $desk->company->code, 'id' => $id], 303);
    }

    /** The entry as closing the slip would post it, beside the list. */
    #[Route('/entry', name: 'deposit_entry', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function entry(Desk $desk, Request $request, MakeDeposit $deposit, Chart $chart): Response
    {
        return $this->render('money/_entries.html.twig', [
            'drafts' => $deposit->preview(
                $desk->actor,
                array_values(array_filter($request->request->all('receipts'), 'is_string')),
            ),
            'problems' => [],
            'nothing' => 'The entry stands here as soon as something is picked.',
            'accounts' => $chart->accounts($desk->id()),
        ]);
    }

    #[Route('/{id<\d+>}', name: 'deposit', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function show(
        Desk $desk,
        int $id,
        EntityManagerInterface $entities,
        JournalQuery $journal,
        HistoryQuery $history,
        BankAccounts $banks,
    ): Response {
        return $this->render('money/deposit.html.twig', [
            ...$this->slip($desk, $id, $entities, $banks),
            'entries' => $journal->ofSource($desk->id(), Source::deposit($id)),
            'history' => $history->of($desk->id(), 'deposit', $id),
        ]);
    }

    #[Route('/{id<\d+>}/slip.pdf', name: 'deposit_pdf', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function pdf(
        Desk $desk,
        int $id,
        EntityManagerInterface $entities,
        BankAccounts $banks,
        Paper $paper,
    ): Response {
        $with = $this->slip($desk, $id, $entities, $banks);

        return $paper->pdf(
            'money/deposit_pdf.html.twig',
            ['company' => $desk->company, ...$with],
            (string) $with['slip']->number,
        );
    }

    #[Route('/{id<\d+>}/undo', name: 'deposit_undo', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function undo(Desk $desk, int $id, Request $request, UndoDeposit $undo): Response
    {
        return $this->act(
            static function () use ($desk, $id, $request, $undo): string {
                $slip = $undo->undo($desk->actor, $id, (string) $request->request->get('reason', ''));

                return \sprintf('%s is undone; what stood on it is on hand again.', $slip->number);
            },
            'deposit',
            ['company' => $desk->company->code, 'id' => $id],
        );
    }

    /** @return array{slip: DepositSlip, bank: ?\Nelbix\App\Bank\BankRow, lines: list<array<string, mixed>>} */
    private function slip(Desk $desk, int $id, EntityManagerInterface $entities, BankAccounts $banks): array
    {
        $slip = $this->found($entities->find(DepositSlip::class, $id), $desk->id());
        \assert($slip instanceof DepositSlip);

        return [
            'slip' => $slip,
            'bank' => $banks->find($desk->id(), $slip->bankAccountId),
            'lines' => $this->onHand->lines($id),
        ];
    }
}
