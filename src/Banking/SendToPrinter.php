<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;
use Nelbix\App\Payables\ProposalDesk;
use Nelbix\App\Payables\ProposalState;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\StandIns;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Sends the checks that wait to the printer. A stand-in takes the printer's place: it can be told to jam at a page. */
final readonly class SendToPrinter
{
    /** A stub holds so many lines; more go to a remittance page behind the check. */
    public const STUB_LINES = 12;

    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private ProposalDesk $desk,
        private History $history,
        private ClockInterface $clock,
        private StandIns $standIns,
    ) {
    }

    /**
     * @return array{pages: int, came: int, jammed: ?int} how many pages there were, how many came out, and the page of the jam
     *
     * @throws Refused when nothing waits
     */
    public function send(Actor $actor, int $proposalId): array
    {
        if (!$this->standIns->here) {
            throw Refused::because('', 'Open the checks’ PDF and print it from there; then say what came out.');
        }

        return $this->transaction->run(function () use ($actor, $proposalId): array {
            $proposal = $this->desk->lock($actor, $proposalId, [ProposalState::Printed]);
            $pages = \count($this->pages($proposalId));
            if (0 === $pages) {
                throw Refused::because('', 'No check of this run waits for the printer.');
            }
            $jam = $this->db->fetchOne('SELECT printer_jams_at FROM company WHERE id = ?', [$actor->companyId]);
            $jammed = is_numeric($jam) && (int) $jam <= $pages ? (int) $jam : null;
            if (null !== $jammed) {
                $this->db->executeStatement('UPDATE company SET printer_jams_at = NULL WHERE id = ?', [
                    $actor->companyId,
                ]);
            }
            $came = null === $jammed ? $pages : $jammed - 1;
            $this->db->executeStatement(
                <<<'SQL'
                INSERT INTO print_job (company_id, proposal_id, name, pages, came_out, jammed_at, created_by_id, created_at)
                VALUES (?, ?, ?, ?, ?, ?, ?, ?)
                SQL
                ,
                [
                    $actor->companyId,
                    $proposalId,
                    'Checks of '.$proposal->number,
                    $pages,
                    $came,
                    $jammed,
                    $actor->userId,
                    $this->clock->now()->format('Y-m-d H:i:s'),
                ],
            );
            $this->history->note(
                $actor,
                'proposal',
                $proposalId,
                'sent to the printer',
                null === $jammed
                    ? \sprintf('%d pages came out', $pages)
                    : \sprintf('jammed at page %d of %d', $jammed, $pages),
            );

            return ['pages' => $pages, 'came' => $came, 'jammed' => $jammed];
        });
    }

    /**
     * What the printer did with each check that waits, as far as it knows: for the clerk to look at and to correct.
     *
     * @return array<int, string> out, spoiled or not printed, by check number; empty when nothing was sent since the clerk's last word
     */
    public function outcome(int $proposalId): array
    {
        $job = $this->db->fetchAssociative(
            'SELECT came_out, jammed_at FROM print_job WHERE proposal_id = ? AND said = 0 ORDER BY id DESC LIMIT 1',
            [$proposalId],
        );
        if (false === $job) {
            return [];
        }
        $outcome = [];
        foreach ($this->pages($proposalId) as $k => $page) {
            // the first page of a check is the check itself; a jam on its remittance page spoils no number
            if (!isset($outcome[$page])) {
                $outcome[$page] = match (true) {
                    $k + 1 <= (int) $job['came_out'] => 'out',
                    $k + 1 === (int) $job['jammed_at'] => 'spoiled',
                    default => 'not printed',
                };
            }
        }

        return $outcome;
    }

    /** @return list<int> the check that each page belongs to */
    private function pages(int $proposalId): array
    {
        $pages = [];
        foreach (
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT k.number, (SELECT COUNT(*) FROM proposal_line l WHERE l.proposal_id = k.proposal_id
                    AND l.payment = k.payment AND l.is_in = 1 AND l.dropped = 0) AS n
                FROM bank_check k
                WHERE k.proposal_id = ? AND k.state = 'reserved'
                ORDER BY k.number
                SQL
                ,
                [$proposalId],
            ) as $r
        ) {
            $pages[] = (int) $r['number'];
            if ((int) $r['n'] > self::STUB_LINES) {
                $pages[] = (int) $r['number'];
            }
        }

        return $pages;
    }
}
