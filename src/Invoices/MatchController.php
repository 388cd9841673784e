<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Nelbix\App\Books\Lookup;
use Nelbix\App\Goods\AccruedLine;
use Nelbix\App\Goods\AccruedLines;
use Nelbix\App\Goods\AwaitedBook;
use Nelbix\App\Goods\AwaitedLines;
use Nelbix\App\Goods\OrderedLine;
use Nelbix\App\Goods\OrderedLines;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\DeliveryEntry;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\PricedAmount;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Matching a vendor's invoice with what was delivered, or is to come, and deciding on one that does not fit. */
#[Route('/{company}/payables', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class MatchController extends Screen
{
    #[Route('/match', name: 'match_offer', methods: ['GET'])]
    #[Needs(Permission::EnterPayables)]
    public function offer(
        Desk $desk,
        Request $request,
        Lookup $lookup,
        AccruedLines $accrued,
        OrderedLines $ordered,
        AwaitedLines $awaited,
    ): Response {
        try {
            $party = $lookup->party(
                $desk->id(),
                Side::Payables,
                mb_substr((string) $request->query->get('party', ''), 0, 20),
            );
        } catch (Refused $e) {
            throw $this->createNotFoundException($e->getMessage());
        }
        $currency = mb_substr((string) $request->query->get('currency', ''), 0, 3);
        $lines = array_filter(
            $accrued->ofVendor($desk->id(), $party->id()),
            static fn (AccruedLine $l): bool => '' === $currency || $l->currency === $currency,
        );
        $toCome = $ordered->toCome($desk->id(), $party->id(), '', null);
        $waiting = $awaited->quantities(array_keys($toCome));
        $expected = [];
        foreach ($toCome as $id => $line) {
            $left = AwaitedBook::leftOf($line, $waiting[$id] ?? null);
            if ($left->isPositive() && ('' === $currency || $line->currency === $currency)) {
                $expected[] = self::expected($line, $left);
            }
        }

        return $this->render('invoices/_match_offer.html.twig', [
            'party' => $party,
            'currency' => $currency,
            'lines' => [...array_map(self::row(...), array_values($lines)), ...$expected],
        ]);
    }

    /** @return array<string, mixed> what the row shows, and the line of the invoice that it becomes */
    private static function row(AccruedLine $l): array
    {
        $quantity = (string) $l->left->quantity->stripTrailingZeros();

        return [
            'id' => (string) $l->id,
            'came' => true,
            'delivery' => $l->delivery,
            'note' => $l->note,
            'day' => $l->deliveredOn,
            'order' => $l->order,
            'text' => $l->text,
            'quantity' => $quantity,
            'unit' => $l->unit,
            'price' => $l->price,
            'amount' => $l->left->amount,
            'currency' => $l->currency,
            'taken' => [
                'delivery_line' => (string) $l->id,
                'account' => $l->accountNumber,
                'text' => $l->text,
                'amount' => PricedAmount::typed($quantity, (string) $l->price, 0, $l->currency),
                'tax_code' => $l->taxCode,
                ...$l->codes,
            ],
        ];
    }

    /** @return array<string, mixed> the same for what is ordered and not here yet */
    private static function expected(OrderedLine $l, BigDecimal $left): array
    {
        $quantity = (string) $left;

        return [
            'id' => 'o'.$l->id,
            'came' => false,
            'delivery' => '',
            'note' => '',
            'day' => $l->wantedBy,
            'order' => $l->order,
            'text' => $l->text,
            'quantity' => $quantity,
            'unit' => $l->unit,
            'price' => $l->price,
            'amount' => DeliveryEntry::value($left, $l->price, Currency::of($l->currency)),
            'currency' => $l->currency,
            'taken' => [
                'order_line' => (string) $l->id,
                'account' => $l->accountNumber,
                'text' => $l->text,
                'amount' => PricedAmount::typed($quantity, (string) $l->price, 0, $l->currency),
                'tax_code' => $l->taxCode,
                ...$l->codes,
            ],
        ];
    }

    #[Route('/document/{id<\d+>}/match', name: 'match_decide', methods: ['POST'])]
    #[Needs(Permission::ReleaseMatches)]
    public function decide(Desk $desk, int $id, Request $request, DecideMatch $decide): Response
    {
        return $this->act(
            static function () use ($desk, $id, $request, $decide): string {
                $decision =
                    MatchDecision::tryFrom((string) $request->request->get('decision', '')) ??
                    throw Refused::because(
                        'decision',
                        'Accept it, ask for a credit, or refuse it.',
                        ProblemKind::Missing,
                    );
                $claim = $decide->decide(
                    $desk->actor,
                    $id,
                    $decision,
                    (string) $request->request->get('reason', ''),
                    $desk->may(Permission::Approve),
                    (string) $request->request->get('seen', ''),
                );

                return match ($decision) {
                    MatchDecision::Accepted => 'It is accepted and can be paid.',
                    MatchDecision::Claimed => \sprintf(
                        'It is accepted and can be paid; %s claims the difference until the vendor’s credit note takes its place.',
                        $claim?->number,
                    ),
                    MatchDecision::Came => throw new \LogicException('Nobody decides that.'),
                    MatchDecision::Refused => 'It is refused and cannot be paid; whoever entered it puts it right or reverses it.',
                };
            },
            'document',
            ['company' => $desk->company->code, 'side' => Side::Payables->value, 'id' => $id],
        );
    }
}
