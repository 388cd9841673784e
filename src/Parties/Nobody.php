<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;

/**
 * Who paid when it is not known who paid: the one party whose items are unidentified receipts. No picker offers it, and nobody changes
 * it; its receipts are handed over to the customer once that is known.
 */
final readonly class Nobody
{
    /** What stands where the customer's code would. */
    public const CODE = '?';

    public const NAME = 'Payer not known yet';

    public function __construct(private EntityManagerInterface $entities)
    {
    }

    /** @throws Refused in a company without an account for unidentified receipts */
    public function of(int $companyId): Party
    {
        return $this->entities
            ->getRepository(Party::class)
            ->findOneBy(['companyId' => $companyId, 'side' => Side::Receivables, 'nobody' => true]) ??
            throw Refused::because('party', 'This company takes no receipts of unknown payers; choose the customer.');
    }

    /** Whether a party is the one that stands for payers who are not known. */
    public function is(int $partyId): bool
    {
        return true === $this->entities->find(Party::class, $partyId)?->nobody;
    }

    /** @throws Refused for what belongs to nobody known: it is handed over first */
    public function mustNotBe(int $partyId, string $field): void
    {
        if ($this->is($partyId)) {
            throw Refused::because($field, 'Nobody knows yet whose money it is; hand it over to its customer first.');
        }
    }

    /** For a new company. */
    public function make(int $companyId, int $account): void
    {
        $party = new Party($companyId, Side::Receivables, self::CODE, self::NAME);
        $party->nobody = $party->retired = true;
        $party->controlAccountId = $account;
        $this->entities->persist($party);
    }
}
