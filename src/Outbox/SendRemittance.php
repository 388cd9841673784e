<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Nelbix\App\Payables\RemittanceAdvice;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;
use Symfony\Component\Mime\Email;

/** Sends remittance advice to the vendors of payments: to all of them or, when an address is missing, only when told to leave those out. */
final readonly class SendRemittance
{
    public function __construct(
        private Transaction $transaction,
        private RemittanceAdvice $advice,
        private Paper $paper,
        private Outbox $outbox,
        private History $history,
    ) {
    }

    /**
     * @param list<int> $ids payments
     *
     * @return array{sent: int, left: list<string>} and who was left out
     *
     * @throws Refused listing whose address is missing
     */
    public function send(Actor $actor, Company $company, array $ids, bool $leaveOut = false): array
    {
        $advices = $this->advice->of($actor->companyId, $ids);
        if ([] === $advices) {
            throw Refused::because('ids', 'There is no payment here that stands; nothing is sent of what was voided.');
        }
        $missing = [];
        foreach ($advices as $k => $a) {
            if (false === filter_var($a['d']['email'], \FILTER_VALIDATE_EMAIL)) {
                $missing[(string) $a['d']['code']] = $a['d']['name'].' ('.$a['d']['code'].')';
                unset($advices[$k]);
            }
        }
        if ([] !== $missing && !$leaveOut) {
            throw Refused::because(
                'ids',
                \sprintf(
                    'Nothing was sent. No address is known for %s; add it on the vendor’s page, or send to the others and print these.',
                    implode(', ', $missing),
                ),
            );
        }

        return $this->transaction->run(function () use ($actor, $company, $advices, $missing): array {
            foreach ($advices as $a) {
                $message = (new Email())
                    ->from('payables@'.strtolower($company->code).'.example')
                    ->to((string) $a['d']['email'])
                    ->subject(\sprintf('Payment %s of %s', $a['d']['number'], $company->name))
                    ->text(
                        \sprintf(
                            "We have paid you. What the payment %s covers is attached.\n\n%s\n%s\n",
                            $a['d']['number'],
                            $company->name,
                            $company->address,
                        ),
                    )
                    ->attach(
                        $this->paper->bytes('payables/remittance_pdf.html.twig', [
                            'company' => $company,
                            'advices' => [$a],
                        ]),
                        $a['d']['number'].'.pdf',
                        'application/pdf',
                    );
                $this->outbox->put($actor, $message, (int) $a['d']['id']);
                $this->history->note(
                    $actor,
                    'document',
                    (int) $a['d']['id'],
                    'remittance advice sent',
                    (string) $a['d']['email'],
                );
            }

            return ['sent' => \count($advices), 'left' => array_values($missing)];
        });
    }
}
