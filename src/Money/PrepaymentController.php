<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Codes\TaxCodeRecord;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Prepayments that are asked for, what came of it, and what is left to place. */
#[Route('/{company}/receivables/prepayments', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class PrepaymentController extends Screen
{
    public function __construct(
        private readonly PrepaymentRequests $requests,
        private readonly AskPrepayment $ask,
        private readonly CodeBook $codes,
    ) {
    }

    #[Route('', name: 'prepayment_requests', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function list(Desk $desk, Request $request): Response
    {
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'prepayment-requests',
                [
                    'number',
                    'customer',
                    'name',
                    'asked_on',
                    'pay_by',
                    'text',
                    'state',
                    'receipt',
                    'currency',
                    'amount',
                    'left',
                ],
                array_map(
                    static fn (array $r): array => [
                        $r['number'],
                        $r['code'],
                        $r['name'],
                        $r['asked_on'],
                        $r['pay_by'],
                        $r['text'],
                        $r['state'],
                        $r['document'],
                        $r['currency'],
                        Money::of($r['amount'], $r['currency'])->decimal(),
                        null === $r['left'] ? '' : Money::of($r['left'], $r['currency'])->decimal(),
                    ],
                    $this->requests->of($desk->id(), 100_000),
                ),
            );
        }

        return $this->page($desk, ['party' => mb_substr((string) $request->query->get('party', ''), 0, 20)]);
    }

    #[Route('', name: 'prepayment_ask', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function ask(Desk $desk, Request $request): Response
    {
        $raw = $request->request->all();
        try {
            $id = $this->ask->ask($desk->actor, $raw, FormKey::of($request));
        } catch (Refused $e) {
            return $this->page($desk, $raw, $e->problems);
        }
        $made = $this->requests->one($desk->id(), $id) ?? throw new \LogicException();
        $this->say(
            \sprintf(
                'Asked %s for %s %s by %s: %s. Nothing is posted before the money comes.',
                $made['name'],
                Typography::amount($made['amount'], $made['currency']),
                $made['currency'],
                Typography::day($made['pay_by']),
                $made['number'],
            ),
        );

        return $this->redirectToRoute('prepayment_requests', ['company' => $desk->company->code], 303);
    }

    #[Route('/{id<\d+>}/withdraw', name: 'prepayment_withdraw', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function withdraw(Desk $desk, int $id, Request $request): Response
    {
        return $this->act(
            fn (): string => \sprintf(
                '%s is withdrawn.',
                $this->ask->withdraw($desk->actor, $id, (string) $request->request->get('why', ''))->number,
            ),
            'prepayment_requests',
            ['company' => $desk->company->code],
        );
    }

    #[Route('/{id<\d+>}/request.pdf', name: 'prepayment_request_pdf', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function pdf(Desk $desk, int $id, PrepaymentPaper $set, Paper $paper): Response
    {
        $with =
            $set->of($desk->company, $id) ??
            throw $this->createNotFoundException('There is no such request in this company.');

        return $paper->pdf('money/prepayment_pdf.html.twig', $with, $with['request']['number']);
    }

    /**
     * @param array<mixed> $raw
     * @param list<Problem> $problems
     */
    private function page(Desk $desk, array $raw, array $problems = []): Response
    {
        return $this->render(
            'money/prepayments.html.twig',
            [
                'rows' => $this->requests->of($desk->id()),
                'form' => $raw,
                'problems' => $problems,
                'errors' => self::byField($problems),
                'codes' => array_filter(
                    $this->codes->taxCodes($desk->id()),
                    static fn (TaxCodeRecord $c): bool => $c->taxesPrepayments && !$c->retired,
                ),
                'key' => FormKey::goOn($raw),
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }
}
