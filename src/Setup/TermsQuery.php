<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Codes\PaymentTermRecord;

/** The payment terms of a company, and how often one was used. */
final readonly class TermsQuery
{
    public function __construct(private EntityManagerInterface $entities)
    {
    }

    /** @return list<PaymentTermRecord> by code */
    public function of(int $companyId): array
    {
        return $this->entities
            ->getRepository(PaymentTermRecord::class)
            ->findBy(['companyId' => $companyId], ['code' => 'ASC']);
    }

    /** In how many posted documents. */
    public function used(int $termId): int
    {
        return (int) $this->entities
            ->getConnection()
            ->fetchOne("SELECT COUNT(*) FROM document WHERE term_id = ? AND state <> 'draft'", [$termId]);
    }
}
