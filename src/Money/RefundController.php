<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\App\Books\WhatItDid;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/**
 * Gives credits of a customer back, one or several: what is left after what the customer owes is offered.
 *
 * @phpstan-import-type ItemRow from OpenItemsQuery
 */
#[Route('/{company}/receivables/party/{id<\d+>}/refund', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class RefundController extends Screen
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly OpenItemsQuery $items,
        private readonly BooksDay $booksDay,
    ) {
    }

    #[Route('', name: 'refund', methods: ['GET'])]
    #[Needs(Permission::EnterReceivables)]
    public function ask(Desk $desk, int $id): Response
    {
        $party = $this->customer($desk, $id);
        $rows = $this->items->ofParty($desk->id(), Side::Receivables, $id, $desk->today);

        return $this->page($desk, $party, $rows, ['amount' => self::offered($rows)]);
    }

    #[Route('', name: 'refund_request', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function request(Desk $desk, int $id, Request $request, RequestRefund $refund, WhatItDid $did): Response
    {
        $party = $this->customer($desk, $id);
        $rows = $this->items->ofParty($desk->id(), Side::Receivables, $id, $desk->today);
        $raw = $request->request->all();
        $text = (new Fields($raw))->text(...);
        $problems = new ProblemList();
        $amounts = $this->amounts($desk, $rows, $raw, $problems);
        try {
            $day =
                '' === $text('date') ? $desk->today : $this->booksDay->input($desk->id())->read($text('date'), 'date');
            if ([] !== $problems->all) {
                throw Refused::all($problems->all);
            }
            $made = $refund->requestAll(
                $desk->actor,
                $id,
                $amounts,
                $day,
                mb_substr($text('reason'), 0, 255),
                FormKey::of($request),
            );
        } catch (Refused $e) {
            return $this->page($desk, $party, $rows, $raw, $e->problems);
        }
        $this->say('Refund requested. '.$did->words($desk->actor, $made));

        return $this->redirectToRoute(
            'document',
            ['company' => $desk->company->code, 'side' => 'receivables', 'id' => $made[0]],
            303,
        );
    }

    /** The entries as asking would post them, beside the form. */
    #[Route('/entry', name: 'refund_entry', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function entry(Desk $desk, int $id, Request $request, RequestRefund $refund, Chart $chart): Response
    {
        $this->customer($desk, $id);
        $rows = $this->items->ofParty($desk->id(), Side::Receivables, $id, $desk->today);
        $drafts = [];
        $problems = new ProblemList();
        foreach ($this->amounts($desk, $rows, $request->request->all(), $problems) as $item => $amount) {
            $draft = $problems->attempt(
                fn (): JournalDraft => $refund->preview($desk->actor, $item, $amount, $desk->today),
            );
            if (null !== $draft) {
                $drafts[] = $draft;
            }
        }

        return $this->render('money/_entries.html.twig', [
            'drafts' => $drafts,
            'problems' => $problems->all,
            'accounts' => $chart->accounts($desk->id()),
        ]);
    }

    /**
     * @param list<ItemRow> $rows
     * @param array<mixed> $raw
     *
     * @return array<int, int> what is typed, minor units, by item
     */
    private function amounts(Desk $desk, array $rows, array $raw, ProblemList $problems): array
    {
        $amounts = [];
        foreach (\is_array($raw['amount'] ?? null) ? $raw['amount'] : [] as $item => $typed) {
            $currency = array_column($rows, 'currency', 'id')[(int) $item] ?? $desk->company->baseCurrency;
            $minor =
                !\is_string($typed) || '' === trim($typed)
                    ? 0
                    : $problems->attempt(
                        static fn (): int => AmountInput::read($typed, Currency::of($currency), 'amount.'.(int) $item)
                            ->minor,
                    );
            if (0 !== $minor && null !== $minor) {
                $amounts[(int) $item] = $minor;
            }
        }

        return $amounts;
    }

    private function customer(Desk $desk, int $id): Party
    {
        $party = $this->found($this->entities->find(Party::class, $id), $desk->id());
        \assert($party instanceof Party);
        if (Side::Receivables !== $party->side || $party->nobody) {
            throw $this->createNotFoundException('There is no such customer in this company.');
        }

        return $party;
    }

    /**
     * Credits, the oldest first, as far as they are more than what the customer owes in their currency.
     *
     * @param list<ItemRow> $rows
     *
     * @return array<int, string> by item
     */
    private static function offered(array $rows): array
    {
        $left = $offered = [];
        foreach ($rows as $r) {
            $left[$r['currency']] = ($left[$r['currency']] ?? 0) - $r['open'];
        }
        foreach ($rows as $r) {
            $part = $r['open'] < 0 ? max(0, min(-$r['open'], $left[$r['currency']])) : 0;
            if ($part > 0) {
                $left[$r['currency']] -= $part;
                $offered[$r['id']] = Money::of($part, $r['currency'])->decimal();
            }
        }

        return $offered;
    }

    /**
     * @param list<ItemRow> $rows
     * @param array<mixed> $raw
     * @param list<Problem> $problems
     */
    private function page(Desk $desk, Party $party, array $rows, array $raw, array $problems = []): Response
    {
        $owed = [];
        foreach ($rows as $r) {
            $owed[$r['currency']] = ($owed[$r['currency']] ?? 0) + max(0, $r['open']);
        }

        return $this->render(
            'money/refund.html.twig',
            [
                'party' => $party,
                'credits' => array_values(array_filter($rows, static fn (array $r): bool => $r['open'] < 0)),
                'owed' => array_filter($owed),
                'form' => $raw,
                'problems' => $problems,
                'errors' => self::byField($problems),
                'key' => FormKey::goOn($raw),
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }
}
