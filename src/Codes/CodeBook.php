<?php

declare(strict_types=1);

namespace Nelbix\App\Codes;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Symfony\Contracts\Service\ResetInterface;

/**
 * A company's terms, tax codes and analysis codes, read once: turns the codes that people and files write into records, and refuses
 * what is unknown or retired.
 */
final class CodeBook implements ResetInterface
{
    /** @var array<string, array<string, int>> */
    private array $codes = [];

    /** @var array<int, array<int, TaxCodeRecord>> */
    private array $taxCodes = [];

    /** @var array<int, array<int, PaymentTermRecord>> */
    private array $terms = [];

    public function __construct(private readonly EntityManagerInterface $entities)
    {
    }

    /** @throws Refused naming $field */
    public function analysis(int $companyId, string $kind, string $code, string $field): ?int
    {
        if ('' === $code) {
            return null;
        }
        $this->codes[$companyId.$kind] ??= array_change_key_case(
            array_map(
                'intval',
                $this->entities
                    ->getConnection()
                    ->fetchAllKeyValue(
                        'SELECT code, id FROM analysis_code WHERE company_id = ? AND kind = ? AND retired = 0',
                        [$companyId, $kind],
                    ),
            ),
            \CASE_UPPER,
        );

        return $this->codes[$companyId.$kind][strtoupper($code)] ??
            throw Refused::because(
                $field,
                \sprintf(
                    'There is no %s “%s”; choose one from the list.',
                    str_replace('_', ' ', $kind),
                    mb_strimwidth($code, 0, 30, '…'),
                ),
                ProblemKind::Unknown,
            );
    }

    /** @return array<int, TaxCodeRecord> by id */
    public function taxCodes(int $companyId): array
    {
        if (!isset($this->taxCodes[$companyId])) {
            $this->taxCodes[$companyId] = [];
            foreach (
                $this->entities
                    ->getRepository(TaxCodeRecord::class)
                    ->findBy(['companyId' => $companyId], ['code' => 'ASC']) as $record
            ) {
                $this->taxCodes[$companyId][$record->id()] = $record;
            }
        }

        return $this->taxCodes[$companyId];
    }

    /** @throws Refused naming $field */
    public function taxCode(int $companyId, Side $side, string $code, string $field): ?TaxCodeRecord
    {
        if ('' === $code) {
            return null;
        }
        $use = Side::Payables === $side ? 'purchase' : 'sale';
        foreach ($this->taxCodes($companyId) as $record) {
            if (self::same($record->code, $code) && !$record->retired) {
                return $record->usedBy === $use
                    ? $record
                    : throw Refused::because(
                        $field,
                        \sprintf(
                            'Tax code %s is for a %s, this is a %s; choose another.',
                            $code,
                            $record->usedBy,
                            $use,
                        ),
                    );
            }
        }
        throw Refused::because(
            $field,
            \sprintf('There is no tax code “%s”; choose one from the list.', mb_strimwidth($code, 0, 30, '…')),
            ProblemKind::Unknown,
        );
    }

    /** @return array<int, PaymentTermRecord> by id */
    public function terms(int $companyId): array
    {
        if (!isset($this->terms[$companyId])) {
            $this->terms[$companyId] = [];
            foreach (
                $this->entities
                    ->getRepository(PaymentTermRecord::class)
                    ->findBy(['companyId' => $companyId], ['code' => 'ASC']) as $record
            ) {
                $this->terms[$companyId][$record->id()] = $record;
            }
        }

        return $this->terms[$companyId];
    }

    /** @throws Refused naming $field */
    public function term(int $companyId, Side $side, string $code, string $field = 'terms'): ?PaymentTermRecord
    {
        if ('' === $code) {
            return null;
        }
        foreach ($this->terms($companyId) as $record) {
            if (self::same($record->code, $code) && !$record->retired) {
                $use = Side::Payables === $side ? 'vendors' : 'customers';

                return \in_array($record->usedBy, ['both', $use], true)
                    ? $record
                    : throw Refused::because(
                        $field,
                        \sprintf('Terms %s are for %s; choose others.', $code, $record->usedBy),
                    );
            }
        }
        throw Refused::because(
            $field,
            \sprintf('There are no terms “%s”; choose some from the list.', mb_strimwidth($code, 0, 30, '…')),
        );
    }

    /** Codes are letters, digits, points and dashes; the database does not tell their case apart, so neither does this. */
    private static function same(string $code, string $typed): bool
    {
        return 0 === strcasecmp($code, $typed);
    }

    public function reset(): void
    {
        $this->codes = $this->taxCodes = $this->terms = [];
    }
}
