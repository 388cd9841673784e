<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Splitting an amount by a template, beside the invoice form. */
#[Route('/{company}/{side}/split', requirements: ['company' => '[A-Z0-9]{2,12}', 'side' => 'payables|receivables'])]
final class SplitController extends Screen
{
    public function __construct(private readonly LineTemplates $templates)
    {
    }

    /** The lines of a total after a template. */
    #[Route('/fill', name: 'split_fill', methods: ['GET'])]
    #[Needs('enter')]
    public function fill(Desk $desk, Side $side, Request $request): Response
    {
        try {
            $currency = Currency::of((string) $request->query->get('currency', $desk->company->baseCurrency));

            return new JsonResponse(
                $this->templates->fill(
                    $desk->id(),
                    $side,
                    self::int($request->query, 'template'),
                    AmountInput::read((string) $request->query->get('total', ''), $currency, 'total'),
                ),
            );
        } catch (Refused $e) {
            return new JsonResponse(['refused' => $e->getMessage()], 422);
        }
    }

    /** A total shared out over the lines of the form. */
    #[Route('/share', name: 'split_share', methods: ['POST'])]
    #[Needs('enter')]
    public function share(Desk $desk, Request $request): Response
    {
        try {
            $currency = Currency::of((string) $request->request->get('currency', '') ?: $desk->company->baseCurrency);

            return new JsonResponse(
                (object) LineTemplates::shareOut(
                    $request->request->all(),
                    AmountInput::read((string) $request->request->get('_total', ''), $currency, 'total'),
                ),
            );
        } catch (Refused $e) {
            return new JsonResponse(['refused' => $e->getMessage()], 422);
        }
    }

    /** Keeps the lines of the form under a name, or takes a template out of use; answers with the list as it is then. */
    #[Route('/keep', name: 'split_keep', methods: ['POST'])]
    #[Needs('enter')]
    public function keep(Desk $desk, Side $side, Request $request, InvoiceReader $reader): Response
    {
        $said = null;
        try {
            if ('retire' === $request->request->get('_split')) {
                $this->templates->retire($desk->actor, $side, self::int($request->request, 'split_template'));
            } else {
                $this->templates->keep(
                    $desk->actor,
                    $reader->read($desk->actor, $side, $request->request->all()),
                    (string) $request->request->get('split_name', ''),
                    $side,
                );
            }
        } catch (Refused $e) {
            $said = $e->getMessage();
        }

        return $this->render(
            'invoices/_split.html.twig',
            ['side' => $side, 'templates' => $this->templates->of($desk->id(), $side), 'splitSaid' => $said],
            new Response(null, null === $said ? 200 : 422),
        );
    }
}
