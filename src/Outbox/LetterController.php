<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Nelbix\App\Money\PlacedLetter;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** The letter that says what a customer's money, or a contra, was placed on: to print, or by mail. */
#[Route('/{company}/receivables/document/{id<\d+>}/letter', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class LetterController extends Screen
{
    #[Route('.pdf', name: 'letter', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function show(Desk $desk, int $id, PlacedLetter $placed, Paper $paper): Response
    {
        $letter =
            $placed->of($desk->id(), $id) ??
            throw $this->createNotFoundException('There is no such money of a customer in this company.');

        return $paper->pdf(
            'money/letter_pdf.html.twig',
            ['company' => $desk->company, ...$letter],
            (string) $letter['document']['number'],
        );
    }

    #[Route('', name: 'letter_send', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function send(Desk $desk, int $id, SendLetter $send): Response
    {
        return $this->act(
            static fn (): string => \sprintf(
                'The letter to %s lies in the outbox.',
                $send->send($desk->actor, $desk->company, $id),
            ),
            'document',
            ['company' => $desk->company->code, 'side' => 'receivables', 'id' => $id],
        );
    }
}
