<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Seal;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\HistoryPacks;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Work\Chore;
use Psr\Clock\ClockInterface;
use Symfony\Component\DependencyInjection\Attribute\Autowire;

/**
 * Packs what happened years ago, once it is sealed and still is what was sealed: what was altered stays where the seal finds it. Changes of
 * rates stay, since the page of the rates says why.
 *
 * @phpstan-import-type PackedEntry from HistoryPacks
 */
final class PackHistory implements Chore
{
    private const MOST = 2000;

    /** Fewer are left until there are more of them. */
    private const LEAST = 500;

    /** Seconds between two looks of one worker. */
    private const PAUSE = 600;

    private int $next = 0;

    public function __construct(
        private readonly Transaction $transaction,
        private readonly Connection $db,
        private readonly HistoryPacks $packs,
        private readonly Digests $digests,
        private readonly ClockInterface $clock,
        #[Autowire('%nelbix.history_years%')] private readonly int $years,
    ) {
    }

    public function do(): bool
    {
        $now = $this->clock->now()->getTimestamp();
        if ($now < $this->next) {
            return false;
        }
        $more = false;
        foreach ($this->db->fetchFirstColumn('SELECT id FROM company ORDER BY id') as $company) {
            $more = $this->company((int) $company) || $more;
        }
        $this->next = $more ? 0 : $now + self::PAUSE;

        return $more;
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
