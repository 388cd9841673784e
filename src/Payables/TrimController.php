<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** What the clerk changes of a proposal in review. */
#[Route('/{company}/payables/proposal/{id<\d+>}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class TrimController extends ProposalScreen
{
    #[Route('/items', name: 'proposal_items', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function items(
        Desk $desk,
        int $id,
        Request $request,
        ChangeProposal $change,
        TakeIn $takeIn,
        TurnAround $turnAround,
    ): Response {
        $ids = array_values(array_filter(array_map('intval', $request->request->all('items'))));
        $action = (string) $request->request->get('_action');

        return $this->step($desk, $id, static function () use (
            $desk,
            $id,
            $ids,
            $action,
            $change,
            $takeIn,
            $turnAround,
        ): string {
            if ([] === $ids) {
                throw Refused::because('items', 'Pick at least one row first.');
            }
            match ($action) {
                'drop' => $change->change($desk->actor, $id, $ids, true),
                'restore' => $change->change($desk->actor, $id, $ids, false),
                'take' => $takeIn->take($desk->actor, $id, $ids),
                'turn' => $turnAround->turn($desk->actor, $id, $ids),
                default => throw Refused::because('', 'There is no such action.', ProblemKind::Unknown),
            };

            return \sprintf(
                [
                    'drop' => '%d dropped; free for other proposals and settlements.',
                    'restore' => '%d back in.',
                    'take' => '%d taken in.',
                    'turn' => '%d turned around, as the other criteria have them.',
                ][$action],
                \count($ids),
            );
        });
    }

    #[Route('/line', name: 'proposal_line', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function line(Desk $desk, int $id, Request $request, ChangeLine $change): Response
    {
        $item = self::int($request->request, 'item');
        $reset = $request->request->getBoolean('reset');

        return $this->step(
            $desk,
            $id,
            static function () use ($desk, $id, $item, $reset, $request, $change): string {
                if ($reset) {
                    $change->change($desk->actor, $id, $item, '', true);

                    return 'The line is back to what the rules gave.';
                }
                $change->change(
                    $desk->actor,
                    $id,
                    $item,
                    (string) $request->request->get('pay', ''),
                    $request->request->getBoolean('discount'),
                    $request->request->getBoolean('lapsed'),
                );

                return 'The line is changed.';
            },
            ['item' => $item],
        );
    }

    #[Route('/payment', name: 'proposal_payment_change', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function payment(Desk $desk, int $id, Request $request, ChangePayment $change): Response
    {
        $payment = self::int($request->request, 'payment');

        return $this->step(
            $desk,
            $id,
            static function () use ($desk, $id, $payment, $request, $change): string {
                $change->change(
                    $desk->actor,
                    $id,
                    $payment,
                    array_intersect_key($request->request->all(), array_flip(['pay_by', 'bank', 'reference', 'note'])),
                );

                return 'The payment is changed.';
            },
            ['payment' => $payment],
        );
    }

    /** A payment leaves an approved run; the rest goes on. */
    #[Route('/take-out', name: 'proposal_take_out', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function takeOut(Desk $desk, int $id, Request $request, TakeOut $takeOut): Response
    {
        return $this->step($desk, $id, static function () use ($desk, $id, $request, $takeOut): string {
            $takeOut->take(
                $desk->actor,
                $id,
                self::int($request->request, 'payment'),
                (string) $request->request->get('reason', ''),
            );

            return 'The payment is out of the run; its items are free again, and a check that was printed for it is void.';
        });
    }

    #[Route('/accept', name: 'proposal_accept', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function accept(Desk $desk, int $id, Request $request, AcceptChanges $accept): Response
    {
        return $this->step($desk, $id, static function () use ($desk, $id, $request, $accept): string {
            $accept->accept($desk->actor, $id, (string) $request->request->get('digest', ''));

            return 'What changed underneath is accepted; the proposal can be approved.';
        });
    }

    #[Route('/drop', name: 'proposal_drop', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function drop(Desk $desk, int $id, ChangeProposal $change): Response
    {
        return $this->step($desk, $id, static function (Proposal $proposal) use ($desk, $id, $change): string {
            $change->dropAll($desk->actor, $id);

            return \sprintf('Proposal %s is dropped. All its items are free.', $proposal->number);
        });
    }

    #[Route('/decide', name: 'proposal_decide', methods: ['POST'])]
    #[Needs(Permission::Approve)]
    public function decide(Desk $desk, int $id, Request $request, DecideProposal $decide): Response
    {
        $approve = 'approve' === $request->request->get('_action');

        return $this->step($desk, $id, static function (Proposal $proposal) use (
            $desk,
            $id,
            $approve,
            $request,
            $decide,
        ): string {
            $decide->decide(
                $desk->actor,
                $id,
                $approve,
                (string) $request->request->get('reason', ''),
                self::int($request->request, '_version'),
            );

            return \sprintf(
                $approve ? '%s is approved; it can be printed and posted.' : '%s goes back with your reason.',
                $proposal->number,
            );
        });
    }

    /** An item is paid on its own, or with the others of its vendor again. */
    #[Route('/apart', name: 'proposal_apart', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function apart(Desk $desk, int $id, Request $request, PayApart $payApart): Response
    {
        $item = self::int($request->request, 'item');

        return $this->step(
            $desk,
            $id,
            static fn (): string => $payApart->turn($desk->actor, $id, $item)
                ? 'It is paid on its own now.'
                : 'It is paid with the others of its vendor again.',
            ['item' => $item],
        );
    }
}
