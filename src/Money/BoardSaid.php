<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Books\WhatItDid;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Typography;

/** What a person is told after the board was posted: what it did to the books, and what stays. */
final readonly class BoardSaid
{
    public function __construct(private WhatItDid $did)
    {
    }

    /**
     * @param non-empty-list<int> $made documents, the money first
     * @param bool $next it is said on the page of the next one, which has nothing of it
     */
    public function posted(Actor $actor, Board $board, string $number, array $made, bool $next): string
    {
        $left =
            null === $board->input?->restTo && [] === ($board->input->recovers ?? []) && !$board->givesBack()
                ? $board->left()
                : 0;

        return self::sentences([
            \sprintf('Posted %s.', $number),
            $this->did->words($actor, $made),
            $left <= 0 ? '' : \sprintf('%s %s.', self::amount($left, $board), $board->restBecomes()),
            ...self::claimed($board),
            'print' === $board->input?->method ? \sprintf('Print its check from %s page.', $next ? 'its' : 'this') : '',
            $next || [] === $board->placed ? '' : 'Undo the settlement on this page if it was placed wrongly.',
        ]);
    }

    /** @param non-empty-list<int> $made the settlement, and the documents that came of it */
    public function settled(Actor $actor, Board $board, array $made): string
    {
        return self::sentences([
            \sprintf('Settled %s of %s without money.', self::amount($board->money(), $board), $board->party?->name),
            $this->did->words($actor, \array_slice($made, 1), [$made[0]]),
            'Undo it on the page of any of its documents.',
            ...self::claimed($board),
        ]);
    }

    /** @return list<string> what was claimed, or asked to be let go */
    private static function claimed(Board $board): array
    {
        return array_values(
            array_map(
                static fn (ClaimRequest $claim): string => null === $claim->writeOffAs
                    ? \sprintf('%s is a claim.', self::amount($claim->amount, $board))
                    : \sprintf(
                        '%s waits as a claim until somebody else approves: %s.',
                        self::amount($claim->amount, $board),
                        $claim->writeOffAs->word(),
                    ),
                $board->claims,
            ),
        );
    }

    private static function amount(int $minor, Board $board): string
    {
        return Typography::amount($minor, $board->currency).' '.$board->currency;
    }

    /** @param list<string> $parts */
    private static function sentences(array $parts): string
    {
        return implode(' ', array_filter($parts, static fn (string $p): bool => '' !== $p));
    }
}
