<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Credits and unapplied money of all parties, and what each fits: looked through as a list, settled in one go. */
#[Route('/{company}/{side}/pairs', requirements: ['company' => '[A-Z0-9]{2,12}', 'side' => 'payables|receivables'])]
final class PairsController extends Screen
{
    /** So many stand on a page; the next ones come once these are settled. */
    private const PAGE = 500;

    public function __construct(private readonly PairsQuery $pairs)
    {
    }

    #[Route('', name: 'pairs', methods: ['GET'])]
    #[Needs('enter')]
    public function list(Desk $desk, Side $side, Request $request): Response
    {
        $pairs = $this->pairs->of($desk->id(), $side, $desk->today);
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                $side->value.'-pairs',
                ['party', 'name', 'credit', 'currency', 'amount', 'fits', 'why'],
                array_map(
                    static fn (array $p): array => [
                        $p['code'],
                        $p['name'],
                        $p['credit_number'],
                        $p['currency'],
                        Money::of($p['amount'], $p['currency'])->decimal(),
                        implode(' ', array_column($p['items'], 'number')),
                        $p['why'],
                    ],
                    $pairs,
                ),
            );
        }

        return $this->render('money/pairs.html.twig', [
            'side' => $side,
            'count' => \count($pairs),
            'pairs' => \array_slice($pairs, 0, self::PAGE),
            'key' => FormKey::goOn([]),
        ]);
    }

    #[Route('', name: 'pairs_settle', methods: ['POST'])]
    #[Needs('enter')]
    public function settle(Desk $desk, Side $side, Request $request, SettlePairs $settle): Response
    {
        $keys = array_values(array_filter($request->request->all('pairs'), 'is_string'));

        return $this->act(
            static function () use ($desk, $side, $keys, $request, $settle): string {
                $count = $settle->settle($desk->actor, $side, $keys, FormKey::of($request));

                return 0 === $count
                    ? 'They were settled already; this page was sent twice.'
                    : \sprintf(
                        'Settled %s. Undo one on the page of any of its documents.',
                        Words::count($count, 'credit'),
                    );
            },
            'pairs',
            ['company' => $desk->company->code, 'side' => $side->value],
        );
    }
}
