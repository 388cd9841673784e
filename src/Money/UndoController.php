<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccount;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\SettlementsOfDocument;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** What takes back: a document reversed, money voided or bounced, a settlement undone, a credit refunded. */
#[Route('/{company}/{side}', requirements: ['company' => '[A-Z0-9]{2,12}', 'side' => 'payables|receivables'])]
final class UndoController extends Screen
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly BooksDay $booksDay,
    ) {
    }

    #[Route('/document/{id<\d+>}/undo', name: 'document_undo', methods: ['POST'])]
    #[Needs('enter')]
    public function document(
        Desk $desk,
        Side $side,
        int $id,
        Request $request,
        ReverseDocument $reverse,
        Bounce $bounce,
    ): Response {
        $document = $this->posted($desk, $side, $id);
        $text = (new Fields($request->request->all()))->text(...);
        $reason = mb_substr($text('reason'), 0, 255);

        return $this->act(
            function () use ($desk, $side, $id, $document, $text, $reason, $reverse, $bounce): string {
                switch ($text('_action')) {
                    case 'reverse':
                        $other = $this->entities->find(Document::class, $reverse->reverse($desk->actor, $id, $reason));

                        return \sprintf(
                            'Reversed %s with %s, dated %s. Its number is free to be entered again.',
                            $document->number,
                            $other?->number,
                            $other?->postingDate?->long(),
                        );
                    case 'void':
                        $day =
                            '' === $text('date')
                                ? $desk->today
                                : $this->booksDay->input($desk->id())->read($text('date'));
                        if (Side::Receivables === $side) {
                            return $this->bounced($desk, $document, $day, $text, $reason, $bounce);
                        }
                        $reverse->event($desk->actor, $id, $day, HowTakenBack::Voided, $reason);

                        return \sprintf(
                            '%s is void as of %s. What it had settled is open again, discounts included.',
                            $document->number,
                            $day->long(),
                        );
                    default:
                        throw Refused::because('', 'There is no such action.', ProblemKind::Unknown);
                }
            },
            'document',
            ['company' => $desk->company->code, 'side' => $side->value, 'id' => $id],
        );
    }

    /** @param \Closure(string): string $text */
    private function bounced(
        Desk $desk,
        Document $document,
        Day $day,
        \Closure $text,
        string $reason,
        Bounce $bounce,
    ): string {
        $bank = $this->entities->find(BankAccount::class, (int) $document->bankAccountId);
        $currency = $bank->currency ?? $document->currency;
        $fee = '' === $text('fee') ? 0 : AmountInput::read($text('fee'), Currency::of($currency), 'fee')->minor;
        $note = $bounce->record($desk->actor, $document->id(), $day, $reason, $fee, '' !== $text('charge_on'));
        $words = Money::of($fee, $currency)->decimal().' '.$currency;

        return trim(
            \sprintf(
                '%s bounced as of %s. What it had settled is open again, discounts included. %s%s',
                $document->number,
                $day->long(),
                0 === $fee ? '' : \sprintf('The bank’s fee of %s is in bank charges', $words),
                match (true) {
                    0 === $fee => '',
                    null === $note => '.',
                    default => \sprintf(
                        ', and charged on by %s.',
                        $this->entities->find(Document::class, $note)?->number,
                    ),
                },
            ),
        );
    }

    #[Route(
        '/document/{id<\d+>}/refund',
        name: 'document_refund',
        requirements: ['side' => 'receivables'],
        methods: ['POST'],
    ),]
    #[Needs('enter')]
    public function refund(Desk $desk, Side $side, int $id, Request $request, RequestRefund $refund): Response
    {
        $document = $this->posted($desk, $side, $id);

        return $this->act(
            function () use ($desk, $document, $request, $refund): string {
                $amount = AmountInput::read(
                    (string) $request->request->get('amount', ''),
                    Currency::of($document->currency),
                    'amount',
                )->minor;
                $asked = $refund->request(
                    $desk->actor,
                    self::int($request->request, 'item'),
                    $amount,
                    $desk->today,
                    (string) $request->request->get('reason', ''),
                );

                return \sprintf(
                    '%s asks for the refund. The credit is settled by it; the next payment run can pay it.',
                    (string) $this->entities->find(Document::class, $asked)?->number,
                );
            },
            'document',
            ['company' => $desk->company->code, 'side' => $side->value, 'id' => $id],
        );
    }

    /** The entry that asking for the refund would post, as its amount is typed. */
    #[Route(
        '/document/{id<\d+>}/refund',
        name: 'document_refund_entry',
        requirements: ['side' => 'receivables'],
        methods: ['GET'],
    ),]
    #[Needs('enter')]
    public function refundEntry(
        Desk $desk,
        Side $side,
        int $id,
        Request $request,
        RequestRefund $refund,
        Chart $chart,
    ): Response {
        $document = $this->posted($desk, $side, $id);
        $draft = $wrong = null;
        try {
            $amount = AmountInput::read(
                (string) $request->query->get('amount', ''),
                Currency::of($document->currency),
                'amount',
            )->minor;
            $draft = $refund->preview($desk->actor, self::int($request->query, 'item'), $amount, $desk->today);
        } catch (Refused $e) {
            $wrong = $e->getMessage();
        }

        return $this->render('money/_refund_entry.html.twig', [
            'draft' => $draft,
            'wrong' => $wrong,
            'accounts' => $chart->accounts($desk->id()),
            'base' => $desk->company->baseCurrency,
        ]);
    }

    #[Route('/settlement/{settlement<\d+>}/undo', name: 'settlement_undo', methods: ['POST'])]
    #[Needs('enter')]
    public function settlement(
        Desk $desk,
        Side $side,
        int $settlement,
        Request $request,
        SettlementsOfDocument $settlements,
        UndoSettlement $undo,
    ): Response {
        if (!$settlements->exists($desk->id(), $side, $settlement)) {
            throw $this->createNotFoundException('There is no such settlement in this company.');
        }

        return $this->act(
            function () use ($desk, $settlement, $request, $undo): string {
                $text = (new Fields($request->request->all()))->text(...);
                $undone = $undo->undo(
                    $desk->actor,
                    $settlement,
                    '' === $text('date') ? null : $this->booksDay->input($desk->id())->read($text('date')),
                    mb_substr($text('reason'), 0, 255),
                );

                return \sprintf(
                    'The settlement is undone as of %s. Its items are open again; what it posted is reversed.',
                    $undone->undoneOn?->long(),
                );
            },
            'document',
            [
                'company' => $desk->company->code,
                'side' => $side->value,
                'id' => self::int($request->request, 'document'),
            ],
        );
    }

    private function posted(Desk $desk, Side $side, int $id): Document
    {
        $document = $this->entities->find(Document::class, $id);

        return $document instanceof Document && $document->companyId === $desk->id() && $document->side === $side
            ? $document
            : throw $this->createNotFoundException('There is no such document in this company.');
    }
}
