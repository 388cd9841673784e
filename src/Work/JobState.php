<?php

declare(strict_types=1);

namespace Nelbix\App\Work;

/** The way of a job. */
enum JobState: string
{
    case Waiting = 'waiting';
    case Running = 'running';
    case Done = 'done';
    case Failed = 'failed';

    public function underWay(): bool
    {
        return self::Waiting === $this || self::Running === $this;
    }
}
