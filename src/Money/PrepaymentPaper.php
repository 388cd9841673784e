<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Brick\Math\BigDecimal;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Codes\TaxCodeRecord;
use Nelbix\App\Invoices\InvoicePrint;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\Company;
use Nelbix\Core\Tax\PrepaymentTax;

/**
 * What stands on the paper that asks for a prepayment: how much, the tax in it, until when, where to, under which reference.
 *
 * @phpstan-import-type Asked from PrepaymentRequests
 */
final readonly class PrepaymentPaper
{
    public function __construct(
        private PrepaymentRequests $requests,
        private EntityManagerInterface $entities,
        private BankAccounts $banks,
        private CodeBook $codes,
    ) {
    }

    /** @return array{company: Company, request: Asked, party: Party, tax: ?int, bank: ?\Nelbix\App\Bank\BankRow, reference: string}|null */
    public function of(Company $company, int $id): ?array
    {
        $request = $this->requests->one($company->id(), $id);
        $party = null === $request ? null : $this->entities->find(Party::class, $request['party_id']);
        if (null === $request || null === $party) {
            return null;
        }
        $banks = $this->banks->inUse($company->id());
        $same = array_values(array_filter($banks, static fn ($b): bool => $b->currency === $request['currency']));
        $code =
            array_values(
                array_filter(
                    $this->codes->taxCodes($company->id()),
                    static fn (TaxCodeRecord $c): bool => $c->code === $request['tax_code'],
                ),
            )[0] ?? null;

        return [
            'company' => $company,
            'request' => $request,
            'party' => $party,
            'tax' => null === $code ? null : PrepaymentTax::inside($request['amount'], BigDecimal::of($code->rate)),
            'bank' => $same[0] ?? ($banks[0] ?? null),
            'reference' => InvoicePrint::reference($request['number']),
        ];
    }
}
