<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Why;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\DocumentState;
use Nelbix\App\Invoices\InvoicePlanner;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\Why\Reasoned;
use Nelbix\App\Invoices\Why\WhyDocument;
use Nelbix\App\Invoices\Why\WhyPlan;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Why a figure is what it is: the rule, and the numbers that went in. */
#[Route('/{company}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class WhyController extends Screen
{
    #[Route(
        '/{side}/why/document/{id<\d+>}',
        name: 'why',
        requirements: ['side' => 'payables|receivables'],
        methods: ['GET'],
    ),]
    #[Needs('see')]
    public function document(
        Desk $desk,
        Side $side,
        int $id,
        EntityManagerInterface $entities,
        WhyDocument $why,
        WhyCharges $charges,
    ): Response {
        $document = $entities->find(Document::class, $id);
        if (null === $document || $document->companyId !== $desk->id() || $document->side !== $side) {
            throw $this->createNotFoundException('There is no such document in this company.');
        }
        if (DocumentState::Draft === $document->state) {
            throw $this->createNotFoundException('A draft has no figures in the books; open it, and press w there.');
        }

        return $this->said((string) $document->number, [
            ...$charges->of($document),
            ...$why->of($document, $desk->company->baseCurrency),
        ]);
    }

    #[Route('/{side}/why/form', name: 'why_form', requirements: ['side' => 'payables|receivables'], methods: ['POST'])]
    #[Needs('enter')]
    public function form(
        Desk $desk,
        Side $side,
        Request $request,
        InvoiceReader $reader,
        InvoicePlanner $planner,
        WhyPlan $why,
    ): Response {
        $input = $reader->read($desk->actor, $side, $request->request->all());
        try {
            $reasons = [] === $input->lines ? [] : $why->of($desk->actor, $input, $planner->plan($desk->actor, $input));
        } catch (Refused $e) {
            return $this->said('This form', [], $e->getMessage());
        }

        return $this->said('This form', $reasons, 'Nothing is worked out yet; type a line with an amount.');
    }

    #[Route(
        '/payables/why/proposal/{id<\d+>}/{item<\d+>}',
        name: 'why_proposed',
        defaults: ['side' => 'payables'],
        methods: ['GET'],
    ),]
    #[Needs(Permission::SeePayables)]
    public function proposed(Desk $desk, int $id, int $item, WhyProposed $why): Response
    {
        $reasons = $why->of($desk->id(), $id, $item);
        if ([] === $reasons) {
            throw $this->createNotFoundException('There is no such item in this proposal.');
        }

        return $this->said('This item', $reasons);
    }

    /** @param list<Reasoned> $reasons */
    private function said(string $of, array $reasons, string $nothing = 'Nothing of it is computed.'): Response
    {
        return $this->render('close/why.html.twig', ['of' => $of, 'reasons' => $reasons, 'nothing' => $nothing]);
    }
}
