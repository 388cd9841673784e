<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Nelbix\App\Platform\Desk;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;

/** Reads what was picked on a statement, as it stood in its rows; what the person's roles do not enter is refused. */
final class PickedChoices
{
    private const MOST = 500;

    /**
     * @return list<array{id: int, choice: Choice, why: string}>
     *
     * @throws Refused
     */
    public static function of(Desk $desk, Request $request): array
    {
        $sent = $request->request->all();
        $part = static fn (string $name): array => \is_array($sent[$name] ?? null) ? $sent[$name] : [];
        [$choices, $differences, $whys] = [$part('choice'), $part('difference'), $part('why')];
        $picked = [];
        foreach (\array_slice($part('go'), 0, self::MOST) as $id) {
            $token = \is_string($id) ? $choices[$id] ?? '' : '';
            if (!\is_string($token) || '' === $token || !\is_string($id) || !ctype_digit($id)) {
                continue;
            }
            $choice = Choice::of($token);
            $difference = $differences[$id] ?? '';
            if (PartKind::Joined === $choice->kind && \is_string($difference)) {
                $choice = $choice->withDifference($difference);
            }
            self::mayPlace($desk, $choice);
            $why = $whys[$id] ?? '';
            $picked[] = [
                'id' => (int) $id,
                'choice' => $choice,
                'why' => \is_string($why) ? mb_substr(trim($why), 0, 255) : '',
            ];
        }

        return $picked;
    }

    /** @throws Refused when it is of a side that the person does not enter */
    public static function mayPlace(Desk $desk, Choice $choice): void
    {
        $side = PartKind::Bounce === $choice->kind ? Side::Receivables : $choice->side;
        if (null !== $side && !$desk->enters($side)) {
            throw Refused::because('', \sprintf('Your role does not enter %s; ask somebody who does.', $side->value));
        }
    }
}
