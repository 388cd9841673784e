<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Symfony\Component\HttpFoundation\RequestStack;
use Twig\Environment;
use Twig\Extension\AbstractExtension;
use Twig\TwigFilter;

/**
 * The columns of a list as they are shown: without those that are empty in all its rows, and without those that the person does not
 * want. A list is written once, whole, between {% apply columned('name') %} and {% endapply %}; a cell holds no other table.
 */
final class ListColumns extends AbstractExtension
{
    public function __construct(private readonly ChosenColumns $chosen, private readonly RequestStack $requests)
    {
    }

    public function getFilters(): array
    {
        return [new TwigFilter('columned', $this->columned(...), ['needs_environment' => true, 'is_safe' => ['html']])];
    }

    public function columned(Environment $twig, string $html, string $list): string
    {
        $desk = $this->requests->getCurrentRequest()?->attributes->get('_desk');
        $labels = self::labels($html);
        if (!($desk instanceof Desk) || [] === $labels) {
            return $html;
        }
        $chosen = $this->chosen->of($desk->actor, $list);
        $empty = self::emptyColumns($html, \count($labels));
        $shown = $offered = [];
        foreach ($labels as $k => $label) {
            $name = self::name($label);
            $wanted = null === $chosen || '' === $name || \in_array($name, $chosen, true);
            $shown[$k] = $wanted && !isset($empty[$k]);
            if ('' !== $name && $k > 0) {
                $offered[] = ['name' => $name, 'label' => $label, 'shown' => $wanted];
            }
        }
        // the first column says what the row is
        $shown[0] = true;
        $choice = $twig->render('platform/_columns.html.twig', [
            'list' => $list,
            'columns' => $offered,
            'first' => self::name($labels[0]),
            'back' => (string) $this->requests->getCurrentRequest()?->getRequestUri(),
            'company' => $desk->company->code,
            'files' => str_contains($html, 'data-rows'),
        ]);

        return '<div class="list-of">'.$choice.self::without($html, $shown).'</div>';
    }

    /** @return list<string> what the heads of the columns say, '' for one without words */
    private static function labels(string $html): array
    {
        if (1 !== preg_match('~<thead.*?<tr\b[^>]*>(.*?)</tr>~s', $html, $m)) {
            return [];
        }
        preg_match_all('~<th\b[^>]*>(.*?)</th>~s', $m[1], $heads);

        return array_map(
            static fn (string $head): string => trim(
                html_entity_decode(
                    strip_tags((string) preg_replace('~<span class="sr">.*?</span>| [↑↓]~su', '', $head)),
                ),
            ),
            $heads[1],
        );
    }

    private static function name(string $label): string
    {
        return trim((string) preg_replace('/[^a-z0-9]+/', '_', strtolower($label)), '_');
    }

    /** @return array<int, true> columns in which no row of the body has anything; none of a list without rows */
    private static function emptyColumns(string $html, int $count): array
    {
        if (1 !== preg_match('~<tbody>(.*?)</tbody>~s', $html, $m)) {
            return [];
        }
        $rows = self::rows($m[1]);
        $empty = [] === $rows ? [] : array_fill(0, $count, true);
        foreach ($rows as $row) {
            $at = 0;
            foreach (self::cells($row) as [$cell, $span]) {
                $bare = trim(strip_tags($cell, '<input><button><svg><img><select>'));
                if ('' !== $bare && '·' !== $bare) {
                    unset($empty[$at]);
                }
                $at += $span;
            }
        }

        return $empty;
    }

    /** @param array<int, bool> $shown by column */
    private static function without(string $html, array $shown): string
    {
        return preg_replace_callback(
            '~(<tr\b[^>]*>)(.*?)(</tr>)~s',
            static function (array $m) use ($shown): string {
                $at = 0;
                $kept = '';
                foreach (self::cells($m[2]) as [$cell, $span]) {
                    $left = \count(array_filter(\array_slice($shown, $at, $span)));
                    $at += $span;
                    $span = 1 === $left ? '' : ' colspan="'.$left.'"';
                    if (0 < $left) {
                        $kept .= preg_replace('~ colspan="\d+"~', $span, $cell, 1)."\n";
                    }
                }

                return $m[1]."\n".$kept.$m[3];
            },
            $html,
        ) ?? $html;
    }

    /** @return list<string> what stands between the marks of each row */
    private static function rows(string $html): array
    {
        preg_match_all('~<tr\b[^>]*>(.*?)</tr>~s', $html, $m);

        return $m[1];
    }

    /** @return list<array{string, int}> cells with their marks, and how many columns each takes */
    private static function cells(string $row): array
    {
        preg_match_all('~<(t[dh])\b([^>]*)>.*?</\1>~s', $row, $m, \PREG_SET_ORDER);

        return array_map(
            static fn (array $c): array => [
                $c[0],
                1 === preg_match('~\bcolspan="(\d+)"~', $c[2], $span) ? (int) $span[1] : 1,
            ],
            $m,
        );
    }
}
