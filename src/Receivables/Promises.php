<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** A customer promises to pay by a day: until then nobody reminds it. */
final readonly class Promises
{
    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private BooksDay $booksDay,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /** @throws Refused without words, or for a day that is past or far */
    public function keep(Actor $actor, int $partyId, Day $until, string $text): void
    {
        $this->transaction->run(function () use ($actor, $partyId, $until, $text): void {
            if ('' === trim($text)) {
                throw Refused::because(
                    'text',
                    'Say who promised what; whoever calls next reads it.',
                    ProblemKind::Missing,
                );
            }
            $today = $this->booksDay->of($actor->companyId);
            if ($until->isBefore($today) || $today->daysUntil($until) > 180) {
                throw Refused::because('until', 'A promise is for a day from today on, within half a year.');
            }
            $mine = $this->db->fetchOne(
                "SELECT 1 FROM party WHERE id = ? AND company_id = ? AND side = 'receivables' AND nobody = 0",
                [$partyId, $actor->companyId],
            );
            if (false === $mine) {
                throw Refused::because('', 'There is no such customer in this company.', ProblemKind::Unknown);
            }
            $this->takeBack($partyId);
            $this->db->insert('promise', [
                'company_id' => $actor->companyId,
                'party_id' => $partyId,
                'until_on' => $until->iso(),
                'text' => mb_substr(trim($text), 0, 255),
                'made_by_id' => $actor->userId,
                'made_at' => $this->clock->now()->format('Y-m-d H:i:s'),
            ]);
            $this->history->note(
                $actor,
                'party',
                $partyId,
                'promised to pay',
                \sprintf('by %s: %s', $until->long(), trim($text)),
            );
        });
    }

    /** A later one stands for an earlier one. */
    private function takeBack(int $partyId): void
    {
        $this->db->executeStatement(
            'UPDATE promise SET taken_back_at = ? WHERE party_id = ? AND taken_back_at IS NULL',
            [$this->clock->now()->format('Y-m-d H:i:s'), $partyId],
        );
    }
}
