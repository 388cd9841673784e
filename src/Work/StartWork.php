<?php

declare(strict_types=1);

namespace Nelbix\App\Work;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Writes long work into the job table; a worker does it. */
final readonly class StartWork
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param int $total how many there are to do
     *
     * @return int the job's id
     *
     * @throws Refused while such work on the record is under way
     */
    public function start(
        Actor $actor,
        LongWork $work,
        int $subjectId,
        string $title,
        int $total,
        string $options = '',
    ): int {
        return $this->transaction->run(function () use ($actor, $work, $subjectId, $title, $total, $options): int {
            $under = $this->entities
                ->getRepository(Job::class)
                ->findOneBy(['standing' => $work->kind().':'.$subjectId]);
            if (null !== $under) {
                throw Refused::because(
                    '',
                    \sprintf(
                        '%s is under way already: %d of %d done. This page shows how far it is.',
                        $under->title,
                        $under->done,
                        $under->total,
                    ),
                );
            }
            $job = new Job(
                $actor->companyId,
                $actor->userId,
                $work->kind(),
                $subjectId,
                mb_substr($title, 0, 120),
                $total,
                $this->clock->now(),
            );
            $job->options = $options;
            $this->entities->persist($job);
            $this->entities->flush();

            return $job->id();
        });
    }
}
