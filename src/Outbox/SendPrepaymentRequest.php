<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Nelbix\App\Money\PrepaymentPaper;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Asks a customer for a prepayment by mail. */
final readonly class SendPrepaymentRequest
{
    public function __construct(
        private Transaction $transaction,
        private PrepaymentPaper $set,
        private SendPaper $send,
    ) {
    }

    /**
     * @return string whom it goes to
     *
     * @throws Refused when it is not open, or no address is known
     */
    public function send(Actor $actor, Company $company, int $id): string
    {
        $with = $this->set->of($company, $id);
        if (null === $with || 'open' !== $with['request']['state']) {
            throw Refused::because('', 'Only a request that is open is sent.', ProblemKind::Unknown);
        }

        return $this->transaction->run(
            fn (): string => $this->send->send(
                $actor,
                $company,
                [
                    'email' => $with['party']->email,
                    'name' => $with['party']->name,
                    'language' => $with['party']->language,
                ],
                'Request for a prepayment',
                $with['request']['number'],
                'money/prepayment_pdf.html.twig',
                $with,
                ['prepayment_request', $id, 'sent'],
            ),
        );
    }
}
