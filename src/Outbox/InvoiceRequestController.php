<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Asks a vendor for the invoice of what it delivered: as a paper, and by mail. */
#[Route('/{company}/not-invoiced/party/{id<\d+>}/letter', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class InvoiceRequestController extends Screen
{
    #[Route('.pdf', name: 'invoice_request', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function pdf(Desk $desk, int $id, AskForInvoice $ask, Paper $paper): Response
    {
        $with =
            $ask->set($desk->company, $id, $desk->today) ??
            throw $this->createNotFoundException('Nothing of such a vendor is received and not invoiced.');

        return $paper->pdf('goods/invoice_request_pdf.html.twig', $with, $with['party']->code);
    }

    #[Route('', name: 'invoice_request_send', methods: ['POST'])]
    #[Needs(Permission::EnterPayables)]
    public function send(Desk $desk, int $id, AskForInvoice $ask): Response
    {
        return $this->act(
            static fn (): string => \sprintf(
                'It waits in the outbox for %s.',
                $ask->send($desk->actor, $desk->company, $id, $desk->today),
            ),
            'not_invoiced',
            ['company' => $desk->company->code, 'vendor' => $id],
        );
    }
}
