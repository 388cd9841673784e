<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Nelbix\App\Invoices\InvoicePrint;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;
use Symfony\Component\Mime\Email;

/** Sends customer invoices as PDF to the customers' addresses: all of them or, when an address is missing, none. */
final readonly class SendInvoices
{
    public function __construct(
        private Transaction $transaction,
        private InvoicePrint $print,
        private Paper $paper,
        private Outbox $outbox,
        private History $history,
    ) {
    }

    /**
     * @param list<int> $ids
     *
     * @return int how many messages lie in the outbox now
     *
     * @throws Refused listing whose address is missing
     */
    public function send(Actor $actor, Company $company, array $ids): int
    {
        $printed = $this->mustBeSendable($company, $ids);

        return $this->transaction->run(function () use ($actor, $company, $printed): int {
            foreach ($printed as $p) {
                /** @var array{d: array<string, string>, reference: string} $p */
                $word = str_replace('_', ' ', $p['d']['kind']);
                $message = (new Email())
                    ->from('invoices@'.strtolower($company->code).'.example')
                    ->to($p['d']['email'])
                    ->subject(\sprintf('%s %s of %s', ucfirst($word), $p['d']['number'], $company->name))
                    ->text(
                        \sprintf(
                            "Please find our %s %s attached.\n\nPayment reference: %s\n\n%s\n%s\n",
                            $word,
                            $p['d']['number'],
                            $p['reference'],
                            $company->name,
                            $company->address,
                        ),
                    )
                    ->attach(
                        $this->paper->bytes('invoices/invoice_pdf.html.twig', ['printed' => [$p]]),
                        $p['d']['number'].'.pdf',
                        'application/pdf',
                    );
                $this->outbox->put($actor, $message, (int) $p['d']['id']);
                $this->history->note($actor, 'document', (int) $p['d']['id'], 'sent', $p['d']['email']);
            }

            return \count($printed);
        });
    }

    /**
     * @param list<int> $ids
     *
     * @return non-empty-list<array<string, mixed>> as InvoicePrint gives them
     *
     * @throws Refused listing whose address is missing
     */
    public function mustBeSendable(Company $company, array $ids): array
    {
        $printed = $this->print->of($company, $ids);
        if ([] === $printed) {
            throw Refused::because('ids', 'Pick at least one posted invoice; Space picks a row.');
        }
        $missing = [];
        foreach ($printed as $p) {
            /** @var array{d: array<string, string>} $p */
            if (false === filter_var($p['d']['email'], \FILTER_VALIDATE_EMAIL)) {
                $missing[$p['d']['code']] = $p['d']['name'].' ('.$p['d']['code'].')';
            }
        }
        if ([] !== $missing) {
            throw Refused::because(
                'ids',
                \sprintf(
                    'Nothing was sent. No address is known for %s; add it on the customer’s page.',
                    implode(', ', $missing),
                ),
            );
        }

        return $printed;
    }
}
