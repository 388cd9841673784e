<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\SettleItems;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * Posts what stands on a board, all of it or nothing: the money with its settlements, or the settlement alone; then the claims of what
 * stays short, and the request to give back what is left over.
 */
final readonly class PostBoard
{
    public function __construct(
        private Transaction $transaction,
        private PayByHand $payByHand,
        private SettleItems $settleItems,
        private MakeClaim $makeClaim,
        private RequestRefund $requestRefund,
        private Connection $db,
        private PrepaymentRequests $requests,
        private TakesBankLine $bankLines,
    ) {
    }

    /**
     * @param string $checkNumber of a payment by check, see PayByHand
     *
     * @return non-empty-list<int> the money's document, or the settlement, and then the documents that came of it
     *
     * @throws Refused
     */
    public function post(Actor $actor, Board $board, string $checkNumber, ?FormKey $form): array
    {
        $also = [];
        $id = $this->transaction->once(
            $actor,
            null === $board->request ? 'money' : 'settlement',
            $form,
            function () use ($actor, $board, $checkNumber, &$also): int {
                $also = [];
                if (null !== $board->request) {
                    $id = $this->settleItems->settle($actor, $board->request);
                } else {
                    $input = $board->input ?? throw new \LogicException('A board without money settles.');
                    $id = $this->payByHand->post($actor, $input, $checkNumber, null);
                }
                if (null === $board->request && '' !== $board->bankLine()) {
                    $this->bankLines->takes($actor, (int) $board->bankLine(), $id);
                }
                if (null === $board->request && '' !== $board->askedFor()) {
                    $this->requests->received($actor, (int) $board->askedFor(), $id);
                }
                foreach ($board->claims as $claim) {
                    $also[] = $this->makeClaim->make($actor, $claim, $board->date);
                }
                if (null === $board->request && $board->givesBack() && $board->left() > 0) {
                    $also[] = $this->giveBack($actor, $board, $id);
                }

                return $id;
            },
        );

        return [$id, ...$also];
    }

    /** @throws Refused without a reason */
    private function giveBack(Actor $actor, Board $board, int $document): int
    {
        if ('' === $board->givesBackWhy()) {
            throw Refused::because(
                'kind_reason',
                'Say why it is given back; who pays it reads that.',
                ProblemKind::Missing,
            );
        }
        $item = $this->db->fetchOne(
            'SELECT id FROM open_item WHERE document_id = ? AND side = ? AND party_id = ? AND open < 0 ORDER BY part LIMIT 1',
            [$document, Side::Receivables->value, $board->party?->id()],
        );

        return $this->requestRefund->request($actor, (int) $item, $board->left(), $board->date, $board->givesBackWhy());
    }
}
