<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\Transaction;

/** Keeps a company's settings, with a note of who changed what. */
final readonly class KeepSettings
{
    public function __construct(
        private Transaction $transaction,
        private Settings $settings,
        private History $history,
    ) {
    }

    /** @param array<string, string> $values as CompanySettings::read gives them */
    public function keep(Actor $actor, array $values): void
    {
        $this->transaction->run(function () use ($actor, $values): void {
            $before = $this->settings->of($actor->companyId)->values;
            $this->settings->keep($actor->companyId, $values);
            $changed = History::fromTo(array_intersect_key($before, $values), $values);
            if ('' !== $changed) {
                $this->history->note($actor, 'company', $actor->companyId, 'settings changed', $changed);
            }
        });
    }
}
