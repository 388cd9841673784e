<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Goods\NotInvoicedQuery;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Asks a vendor for the invoice of what it delivered and did not invoice. */
final readonly class AskForInvoice
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private NotInvoicedQuery $query,
        private SendPaper $send,
    ) {
    }

    /**
     * @return array{company: Company, party: Party, day: Day, lines: list<array<string, mixed>>}|null null when there is nothing to ask
     *                                                                                                 for
     */
    public function set(Company $company, int $partyId, Day $day): ?array
    {
        $party = $this->entities->find(Party::class, $partyId);
        if (null === $party || $party->companyId !== $company->id() || Side::Payables !== $party->side) {
            return null;
        }
        $lines = $this->query->lines($company->id(), $day, $partyId);

        return [] === $lines ? null : ['company' => $company, 'party' => $party, 'day' => $day, 'lines' => $lines];
    }

    /**
     * @return string whom it goes to
     *
     * @throws Refused when there is nothing to ask for, or no address is known
     */
    public function send(Actor $actor, Company $company, int $partyId, Day $day): string
    {
        $with =
            $this->set($company, $partyId, $day) ??
            throw Refused::because('', 'Nothing of such a vendor is received and not invoiced.', ProblemKind::Unknown);
        $party = $with['party'];

        return $this->transaction->run(
            fn (): string => $this->send->send(
                $actor,
                $company,
                ['email' => $party->email, 'name' => $party->name, 'language' => $party->language],
                'Your invoice, please',
                $party->code,
                'goods/invoice_request_pdf.html.twig',
                $with,
                ['party', $partyId, 'asked for its invoice'],
                from: 'payables',
            ),
        );
    }
}
