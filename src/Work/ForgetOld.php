<?php

declare(strict_types=1);

namespace Nelbix\App\Work;

use Doctrine\DBAL\Connection;
use Psr\Clock\ClockInterface;

/**
 * What grows for ever and is no book is forgotten by rule, a little at a time: sessions that are over, keys of forms that nobody sends
 * again, long work that ended more than a year ago, sign-ins of years ago, pictures of papers that were drawn a year ago. Papers
 * themselves, history and whatever is sealed stay.
 */
final class ForgetOld implements Chore
{
    /** Rows that go in one statement, so that nobody waits for it. */
    private const MOST = 500;

    /** Seconds between two looks of one worker. */
    private const PAUSE = 600;

    /** By table: what is old, with :day so many days ago. */
    private const RULES = [
        'sessions' => ['sess_lifetime < UNIX_TIMESTAMP(:day)', 1],
        'done_once' => ['made_at < :day', 90],
        'job_progress' => ['job_id IN (SELECT id FROM job WHERE ended_at < :day)', 400],
        'job' => ['ended_at < :day', 400],
        'sign_in' => ['at < :day', 1100],
        'attempt' => ['until_at < UNIX_TIMESTAMP(:day)', 1],
        // drawn anew when somebody looks at the paper
        'page_image' => ['drawn_at < :day', 400],
    ];

    /** Their ids rise with time: only the first of them are looked at. */
    private const IN_ORDER = ['done_once', 'job', 'sign_in'];

    private int $next = 0;

    public function __construct(private readonly Connection $db, private readonly ClockInterface $clock)
    {
    }

    public function do(): bool
    {
        $now = $this->clock->now();
        if ($now->getTimestamp() < $this->next) {
            return false;
        }
        $more = false;
        foreach (self::RULES as $table => [$old, $days]) {
            $first = \in_array($table, self::IN_ORDER, true)
                ? " AND id IN (SELECT id FROM (SELECT id FROM $table ORDER BY id LIMIT ".self::MOST.') f)'
                : '';
            $gone = $this->db->executeStatement("DELETE FROM $table WHERE $old$first LIMIT ".self::MOST, [
                'day' => $now->modify("-$days days")->format('Y-m-d H:i:s'),
            ]);
            $more = $more || self::MOST === (int) $gone;
        }
        $this->next = $more ? 0 : $now->getTimestamp() + self::PAUSE;

        return $more;
    }
}
