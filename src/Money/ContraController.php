<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\App\Books\WhatItDid;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** A business that is customer and vendor: what it owes and what it is owed, set off against each other. */
#[Route('/{company}/contra/{id<\d+>}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class ContraController extends Screen
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly OpenItemsQuery $items,
        private readonly BooksDay $booksDay,
    ) {
    }

    #[Route('', name: 'contra', methods: ['GET'])]
    #[Needs(Permission::EnterReceivables)]
    public function ask(Desk $desk, int $id): Response
    {
        [$customer, $vendor] = $this->both($desk, $id);
        $rows = $this->rows($desk, $customer, $vendor);

        return $this->page($desk, $customer, $vendor, $rows, ['placed' => self::oldestFirst($rows)]);
    }

    #[Route('', name: 'contra_post', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function post(Desk $desk, int $id, Request $request, Contra $contra, WhatItDid $did): Response
    {
        [$customer, $vendor] = $this->both($desk, $id);
        $raw = $request->request->all();
        $rows = $this->rows($desk, $customer, $vendor);
        try {
            $text = (new Fields($raw))->text(...);
            $document = $contra->post(
                $desk->actor,
                $customer,
                self::placed($rows, $raw),
                '' === $text('date') ? $desk->today : $this->booksDay->input($desk->id())->read($text('date'), 'date'),
                mb_substr($text('text'), 0, 255),
                FormKey::of($request),
            );
        } catch (Refused $e) {
            return $this->page($desk, $customer, $vendor, $rows, $raw, $e->problems);
        }
        $this->say('Set off. '.$did->words($desk->actor, [$document]));

        return $this->redirectToRoute(
            'document',
            ['company' => $desk->company->code, 'side' => 'receivables', 'id' => $document],
            303,
        );
    }

    /** @return array{Party, Party} the customer, and the vendor that is the same business */
    private function both(Desk $desk, int $id): array
    {
        if (!$desk->may(Permission::EnterPayables)) {
            throw $this->createAccessDeniedException('Who sets off enters on both sides.');
        }
        $one = $this->entities->find(Party::class, $id);
        $other = null === $one?->linkedPartyId ? null : $this->entities->find(Party::class, $one->linkedPartyId);
        if (null === $one || null === $other || $one->companyId !== $desk->id()) {
            throw $this->createNotFoundException(
                'There are no two such parties in this company that are one business.',
            );
        }

        return Side::Receivables === $one->side ? [$one, $other] : [$other, $one];
    }

    /** @return array<int, array<string, mixed>> what both have open, by item */
    private function rows(Desk $desk, Party $customer, Party $vendor): array
    {
        $rows = [];
        foreach ([$vendor, $customer] as $party) {
            foreach ($this->items->ofParty($desk->id(), $party->side, $party->id(), $desk->today) as $row) {
                if (
                    null === $row['reserved_by']
                    && !$row['held']
                    && !\in_array($row['approval'], ['awaiting', 'refused'], true)
                ) {
                    $rows[$row['id']] = [...$row, 'side' => $party->side->value];
                }
            }
        }

        return $rows;
    }

    /**
     * What both owe, oldest first, up to what the smaller side holds; of the first currency that stands on both.
     *
     * @param array<int, array<string, mixed>> $rows
     *
     * @return array<int, string>
     */
    private static function oldestFirst(array $rows): array
    {
        $sums = [];
        foreach ($rows as $r) {
            $sums[$r['currency']][$r['side']] = ($sums[$r['currency']][$r['side']] ?? 0) + max(0, (int) $r['open']);
        }
        $sums = array_filter($sums, static fn (array $s): bool => 2 === \count($s) && min($s) > 0);
        $currency = array_key_first($sums);
        if (null === $currency) {
            return [];
        }
        $left = ['payables' => min($sums[$currency]), 'receivables' => min($sums[$currency])];
        $placed = [];
        foreach ($rows as $id => $r) {
            $part = $r['currency'] === (string) $currency ? min(max(0, (int) $r['open']), $left[$r['side']]) : 0;
            if ($part > 0) {
                $left[$r['side']] -= $part;
                $placed[$id] = Money::of($part, (string) $currency)->decimal();
            }
        }

        return $placed;
    }

    /**
     * @param array<int, array<string, mixed>> $rows
     * @param array<mixed> $raw
     *
     * @return array<int, int> minor units, by item
     *
     * @throws Refused naming the row
     */
    private static function placed(array $rows, array $raw): array
    {
        $placed = [];
        foreach (\is_array($raw['placed'] ?? null) ? $raw['placed'] : [] as $id => $typed) {
            if (!\is_string($typed) || '' === trim($typed)) {
                continue;
            }
            $row =
                $rows[(int) $id] ??
                throw Refused::because(
                    'placed',
                    'An item is no longer open, or no longer free; look at the page anew.',
                );
            $minor = abs(AmountInput::read($typed, Currency::of((string) $row['currency']), 'placed.'.$id)->minor);
            if (0 !== $minor) {
                $placed[(int) $id] = $row['open'] < 0 ? -$minor : $minor;
            }
        }
        if ([] === $placed) {
            throw Refused::because('placed', 'Nothing is set off; name an amount on each side.');
        }

        return $placed;
    }

    /**
     * @param array<int, array<string, mixed>> $rows
     * @param array<mixed> $raw
     * @param list<Problem> $problems
     */
    private function page(
        Desk $desk,
        Party $customer,
        Party $vendor,
        array $rows,
        array $raw,
        array $problems = [],
    ): Response {
        return $this->render(
            'money/contra.html.twig',
            [
                'customer' => $customer,
                'vendor' => $vendor,
                'rows' => $rows,
                'form' => ['date' => $desk->today->long(), ...$raw],
                'problems' => $problems,
                'errors' => self::byField($problems),
                'key' => FormKey::goOn($raw),
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }
}
