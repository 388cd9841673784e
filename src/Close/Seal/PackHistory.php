<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Seal;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\HistoryPacks;
use Nelbix\App\Platform\Transaction;
use Psr\Clock\ClockInterface;
use Symfony\Component\DependencyInjection\Attribute\Autowire;

/**
 * Packs what happened years ago, once it is sealed and still is what was sealed: what was altered stays where the seal finds it. Changes of
 * rates stay, since the page of the rates says why. The application may not take anything out of the history; this is done by the user
 * that keeps the schema.
 *
 * @phpstan-import-type PackedEntry from HistoryPacks
 */
final readonly class PackHistory
{
    private const MOST = 2000;

    /** Fewer are left until there are more of them. */
    private const LEAST = 500;

    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private HistoryPacks $packs,
        private Digests $digests,
        private ClockInterface $clock,
        #[Autowire('%nelbix.history_years%')] private int $years,
    ) {
    }

    /** @return int how many packs were made */
    public function all(): int
    {
        $packs = 0;
        foreach ($this->db->fetchFirstColumn('SELECT id FROM company ORDER BY id') as $company) {
            while ($this->company((int) $company)) {
                ++$packs;
            }
        }

        return $packs;
    }

    /** @return bool whether a pack was made, so that there may be another */
    public function company(int $companyId): bool
    {
        $before = $this->clock
            ->now()
            ->modify("-{$this->years} years")
            ->format('Y-m-d H:i:s');
        /** @var list<PackedEntry> $entries */
        $entries = array_map(
            static fn (array $row): array => array_map('strval', $row),
            $this->db->fetchAllNumeric(
                'SELECT '.
                    HistoryPacks::COLUMNS.
                    " FROM history WHERE company_id = ? AND happened_at < ? AND subject <> 'exchange_rate' ORDER BY id LIMIT ".
                    self::MOST,
                [$companyId, $before],
            ),
        );
        $sealed = $this->asSealed($companyId, $entries);

        return \count($sealed) >= self::LEAST
            && $this->transaction->run(fn (): bool => $this->packs->put($companyId, $sealed));
    }

    /**
     * @param list<PackedEntry> $entries
     *
     * @return list<PackedEntry> the first of them, up to one that is not sealed or not what was sealed
     */
    private function asSealed(int $companyId, array $entries): array
    {
        $ids = array_map(static fn (array $e): int => (int) $e[0], $entries);
        $digests = $this->db->fetchAllKeyValue(
            "SELECT subject_id, digest FROM seal WHERE company_id = ? AND subject = 'history' AND subject_id IN (?)",
            [$companyId, $ids],
            [1 => ArrayParameterType::INTEGER],
        );
        $now = $this->digests->of(SealedKind::History, $ids);
        $good = [];
        foreach ($entries as $entry) {
            $digest = $now[(int) $entry[0]] ?? null;
            if (null === $digest || ($digests[(int) $entry[0]] ?? null) !== $digest) {
                break;
            }
            $good[] = $entry;
        }

        return $good;
    }
}
