<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\OpenItemRecord;
use Nelbix\App\Books\WhatItDid;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Parties\Party;
use Nelbix\App\People\Colleagues;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** What becomes of one open item without money: it is claimed, written off, handed over, made a prepayment or unapplied again. */
#[Route(
    '/{company}/{side}/item/{id<\d+>}/{action}',
    requirements: [
        'company' => '[A-Z0-9]{2,12}',
        'side' => 'payables|receivables',
        'action' => 'claim|write-off|hand-over|prepayment',
    ],
),]
final class ItemController extends Screen
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly ItemForm $form,
        private readonly Chart $chart,
        private readonly Colleagues $colleagues,
        private readonly WhatItDid $did,
    ) {
    }

    #[Route('', name: 'item_act', methods: ['GET'])]
    #[Needs('enter')]
    public function ask(Desk $desk, Side $side, int $id, ItemAction $action): Response
    {
        $item = $this->item($desk, $side, $id, $action);
        $raw = [
            'amount' => \Nelbix\Core\Money\Money::of(abs($item->open), $item->currency)->decimal(),
            'date' => $desk->today->long(),
        ];

        return $this->page($desk, $item, $action, $raw);
    }

    /** The entry that doing it would post, as it is typed. */
    #[Route('/entry', name: 'item_act_entry', methods: ['POST'])]
    #[Needs('enter')]
    public function entry(Desk $desk, Side $side, int $id, ItemAction $action, Request $request): Response
    {
        $item = $this->item($desk, $side, $id, $action);

        return $this->render(
            'money/_item_entry.html.twig',
            $this->worked($desk, $item, $action, $request->request->all()),
        );
    }

    #[Route('', name: 'item_act_do', methods: ['POST'])]
    #[Needs('enter')]
    public function do(Desk $desk, Side $side, int $id, ItemAction $action, Request $request): Response
    {
        $item = $this->item($desk, $side, $id, $action);
        $raw = $request->request->all();
        try {
            [$document, $said] = $this->form->do($desk, $item, $action, $raw, FormKey::of($request));
        } catch (Refused $e) {
            return $this->page($desk, $item, $action, $raw, $e->problems);
        }
        $this->say(trim($said.' '.(null === $document ? '' : $this->did->words($desk->actor, [$document]))));

        return $this->redirectToRoute(
            'document',
            [
                'company' => $desk->company->code,
                'side' => $side->value,
                'id' => $document ?? $item->document->id(),
            ],
            303,
        );
    }

    /**
     * @param array<mixed> $raw
     * @param list<Problem> $problems
     */
    private function page(
        Desk $desk,
        OpenItemRecord $item,
        ItemAction $action,
        array $raw,
        array $problems = [],
    ): Response {
        return $this->render(
            'money/item.html.twig',
            [
                ...$this->worked($desk, $item, $action, $raw),
                'form' => $raw,
                'problems' => $problems,
                'errors' => self::byField($problems),
                'people' => $this->colleagues->of($desk->id()),
                'kinds' => ClaimKind::chosen(),
                'party' => $this->entities->find(Party::class, $item->partyId),
                'key' => FormKey::goOn($raw),
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array<string, mixed>
     */
    private function worked(Desk $desk, OpenItemRecord $item, ItemAction $action, array $raw): array
    {
        $draft = $refusal = null;
        try {
            $draft = $this->form->preview($desk, $item, $action, $raw);
        } catch (Refused $e) {
            $refusal = ProblemKind::Missing === $e->problems[0]->kind ? null : $e->getMessage();
        }

        return [
            'item' => $item,
            'side' => $item->side,
            'action' => $action,
            'prepaid' => $this->chart->account($desk->id(), $item->accountId)['role'] === $item->side->prepaymentRole()->value,
            'draft' => $draft instanceof JournalDraft ? $draft : null,
            'refusal' => $refusal,
            'waits' => $this->form->waits($desk, $item, $action, $raw),
            'accounts' => $this->chart->accounts($desk->id()),
            'allowance' => $this->chart->accountOf($desk->id(), AccountRole::BadDebtAllowance),
        ];
    }

    private function item(Desk $desk, Side $side, int $id, ItemAction $action): OpenItemRecord
    {
        $item = $this->entities->find(OpenItemRecord::class, $id);
        if (!($item instanceof OpenItemRecord) || $item->companyId !== $desk->id() || $item->side !== $side) {
            throw $this->createNotFoundException('There is no such item in this company.');
        }

        return $item;
    }
}
