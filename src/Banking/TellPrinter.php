<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\StandIns;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/** Tells the stand-in for the printer at which page of the next job to jam. */
final readonly class TellPrinter
{
    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private History $history,
        private StandIns $standIns,
    ) {
    }

    /**
     * @param string $page as typed; empty for no jam
     *
     * @return int|null the page
     *
     * @throws Refused when it is no page
     */
    public function jamAt(Actor $actor, string $page): ?int
    {
        if (!$this->standIns->here) {
            throw Refused::because('page', 'There is no stand-in for the printer here.');
        }
        if (1 !== preg_match('/\A([1-9]\d{0,3})?\z/', trim($page))) {
            throw Refused::because('page', 'Give the number of a page, or nothing.');
        }
        $at = '' === trim($page) ? null : (int) trim($page);

        return $this->transaction->run(function () use ($actor, $at): ?int {
            $this->db->executeStatement('UPDATE company SET printer_jams_at = ? WHERE id = ?', [
                $at,
                $actor->companyId,
            ]);
            $this->history->note(
                $actor,
                'company',
                $actor->companyId,
                'printer told',
                null === $at ? 'no jam' : 'jam at page '.$at,
            );

            return $at;
        });
    }
}
