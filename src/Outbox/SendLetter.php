<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Nelbix\App\Money\PlacedLetter;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Tells a customer by mail what its money, or a contra, was placed on. */
final readonly class SendLetter
{
    public function __construct(
        private Transaction $transaction,
        private PlacedLetter $placed,
        private SendPaper $send,
    ) {
    }

    /**
     * @return string whom it goes to
     *
     * @throws Refused when it does not stand, or no address is known
     */
    public function send(Actor $actor, Company $company, int $documentId): string
    {
        $letter =
            $this->placed->of($actor->companyId, $documentId) ??
            throw Refused::because(
                '',
                'Only money of a customer, or a contra, that stands is told of.',
                ProblemKind::Unknown,
            );
        $id = (int) $letter['document']['id'];

        return $this->transaction->run(
            fn (): string => $this->send->send(
                $actor,
                $company,
                [
                    'email' => (string) $letter['party']['email'],
                    'name' => (string) $letter['party']['name'],
                    'language' => (string) $letter['party']['language'],
                ],
                'contra' === $letter['document']['kind'] ? 'Set off' : 'Your payment',
                (string) $letter['document']['number'],
                'money/letter_pdf.html.twig',
                ['company' => $company, ...$letter],
                ['document', $id, 'letter sent'],
                $id,
            ),
        );
    }
}
