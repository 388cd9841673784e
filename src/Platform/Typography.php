<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Payment\Masked;
use Nelbix\Core\Formats\UnitCode;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\RequestStack;
use Twig\Extension\AbstractExtension;
use Twig\TwigFilter;
use Twig\TwigFunction;

/** How amounts, days and the marks of the interface are set. */
final class Typography extends AbstractExtension
{
    public function __construct(private readonly RequestStack $requests, private readonly Settings $settings)
    {
    }

    public function getFilters(): array
    {
        return [
            new TwigFilter('amount', self::amount(...)),
            // what a form brought where a text was asked; a list is nothing that anybody typed
            new TwigFilter(
                'typed',
                static fn (mixed $v): string => \is_scalar($v) || $v instanceof \Stringable ? (string) $v : '',
            ),
            new TwigFilter('evened', self::evened(...)),
            new TwigFilter('digits', static fn (string $currency): int => Currency::of($currency)->digits),
            new TwigFilter('price', self::price(...)),
            new TwigFilter(
                'plain',
                static fn (string $n): string => (string) \Brick\Math\BigDecimal::of($n)->stripTrailingZeros(),
            ),
            new TwigFilter('masked', Masked::of(...)),
            new TwigFilter('unit', UnitCode::word(...)),
            new TwigFilter('day', self::day(...)),
            new TwigFilter('short_day', $this->shortDay(...)),
            new TwigFilter('count', Words::count(...)),
            // without zeros that say nothing: 2.5000 is 2.5
            new TwigFilter(
                'bare',
                static fn (string|\Stringable $v): string => str_contains((string) $v, '.')
                    ? rtrim(rtrim((string) $v, '0'), '.')
                    : (string) $v,
            ),
            new TwigFilter('agree', static fn (string $many, int $n): string => Words::agree($n, $many)),
            new TwigFilter('words', static fn (string $v): string => str_replace('_', ' ', $v)),
        ];
    }

    public function getFunctions(): array
    {
        return [
            new TwigFunction('dial', self::dial(...), ['is_safe' => ['html']]),
            new TwigFunction('beam', self::beam(...), ['is_safe' => ['html']]),
            new TwigFunction(
                'days_between',
                static fn (string $a, string|Day $b): int => Day::of($a)->daysUntil(
                    $b instanceof Day ? $b : Day::of($b),
                ),
            ),
            new TwigFunction('enum_side', \Nelbix\Core\Ledger\Side::from(...)),
            new TwigFunction('permission', Permission::from(...)),
            new TwigFunction('date_order', $this->dateOrder(...)),
            new TwigFunction('random_key', static fn (): string => FormKey::goOn()),
        ];
    }

    /** 1,280.00 with a true minus; tabular figures come from the style. */
    public static function amount(?int $minor, string $currency = 'USD', bool $dashZero = false): string
    {
        if (null === $minor || ($dashZero && 0 === $minor)) {
            return '·';
        }
        [$whole, $cents] = [...explode('.', Money::decimalOf(abs($minor), Currency::of($currency)->digits)), null];
        $grouped = strrev(implode(',', str_split(strrev((string) $whole), 3)));

        return ($minor < 0 ? "\u{2212}" : '').$grouped.(null === $cents ? '' : '.'.$cents);
    }

    public static function day(string|Day|null $day): string
    {
        return null === $day || '' === $day ? '' : ($day instanceof Day ? $day : Day::of(substr($day, 0, 10)))->long();
    }

    /** Without the year, while it is the year of the books' day. */
    public function shortDay(string|Day|null $day): string
    {
        $desk = $this->requests->getCurrentRequest()?->attributes->get('_desk');
        $long = self::day($day);

        return $desk instanceof Desk && str_ends_with($long, (string) $desk->today->year)
            ? substr($long, 0, -5)
            : $long;
    }

    /** An amount that was typed, as amounts are set; what cannot be read stays as it was typed. */
    private static function evened(mixed $typed, string $currency): string
    {
        $text = \is_scalar($typed) ? (string) $typed : '';
        try {
            return '' === trim($text)
                ? $text
                : self::amount(AmountInput::read($text, Currency::of($currency))->minor, $currency);
        } catch (Refused) {
            return $text;
        }
    }

    /** The company's order of day and month in words, as its settings have it. */
    private function dateOrder(): string
    {
        $desk = $this->requests->getCurrentRequest()?->attributes->get('_desk');

        return !($desk instanceof Desk) || $this->settings->of($desk->id())->monthFirst() ? 'month/day' : 'day/month';
    }

    /**
     * The dial: filled by the share that is settled; a bar across when held, dashed when draft, struck when reversed.
     */
    /** A price each: the currency's decimals, and more where they are not zero. */
    public static function price(\Brick\Math\BigDecimal|string $price, string $currency): string
    {
        $plain = \Brick\Math\BigDecimal::of($price)->stripTrailingZeros();
        $digits = max($plain->getScale(), Currency::of($currency)->digits);
        [$whole, $part] = [...explode('.', (string) $plain->toScale($digits)), ''];

        return (string) preg_replace('/\B(?=(\d{3})+$)/', ',', $whole).('' === $part ? '' : '.'.$part);
    }

    public static function dial(int $original, int $open, string $state = '', int $planned = 0): string
    {
        $share = 0 === $original ? 1.0 : 1 - $open / $original;
        $word = match (true) {
            'draft' === $state => 'draft',
            'reversed' === $state => 'reversed',
            $share <= 0.0 => 'open',
            $share >= 1.0 => 'settled',
            default => \sprintf('%d %% settled', (int) round($share * 100)),
        };
        $fill = '';
        if ($share >= 1.0 && '' === $state) {
            $fill = '<circle cx="7" cy="7" r="5" class="dial-fill"/>';
        } elseif ($share > 0.0) {
            $angle = 2 * \M_PI * $share;
            $fill = \sprintf(
                '<path d="M7 7V2A5 5 0 %d 1 %.2f %.2fZ" class="dial-fill"/>',
                $share > 0.5 ? 1 : 0,
                7 + 5 * sin($angle),
                7 - 5 * cos($angle),
            );
        }
        // what a screen plans but has not posted is a thin outer arc
        if ($planned > 0 && 0 !== $original) {
            $to = min(0.999, $planned / abs($original));
            $fill .= \sprintf(
                '<path d="M7 .6A6.4 6.4 0 %d 1 %.2f %.2f" class="dial-plan"/>',
                $to > 0.5 ? 1 : 0,
                7 + 6.4 * sin(2 * \M_PI * $to),
                7 - 6.4 * cos(2 * \M_PI * $to),
            );
        }
        $extra = match ($state) {
            'held' => '<path d="M0 7H14" class="dial-bar"/>',
            'reversed' => '<path d="M1 13 13 1" class="dial-bar"/>',
            default => '',
        };

        return \sprintf(
            '<svg class="dial%s" viewBox="0 0 14 14" width="14" height="14" role="img" aria-label="%s"><circle '.
                'cx="7" cy="7" r="4.6" class="dial-ring"/>%s%s</svg>',
            'draft' === $state ? ' dial-draft' : '',
            $word.('held' === $state ? ', held' : ''),
            $fill,
            $extra,
        );
    }

    /** The balance beam: money from the left, what it is placed on from the right, left to place in the middle. */
    public static function beam(
        int $money,
        int $placed,
        string $currency,
        string $moneyWord = 'Money',
        string $placedWord = 'placed',
        bool $restHasPlace = false,
        string $leftWord = 'left to place',
        string $overWord = 'too much placed',
    ): string {
        $full = max($money, $placed, 1);
        $left = $money - $placed;
        $closed = (0 === $left || $restHasPlace) && $money > 0;
        // each side takes half of the beam when both are full
        $a = (500 * $money) / $full;
        $b = (500 * $placed) / $full;
        $over = $left < 0;
        $text = $over
            ? self::amount(-$left, $currency).' '.$overWord
            : $leftWord.' '.self::amount($left, $currency);

        return \sprintf(
            '<div class="beam%s" role="status"><svg viewBox="0 0 1000 20" preserveAspectRatio="none" '.
                'aria-hidden="true"><rect width="1000" height="20" class="beam-bed"/><rect width="%.1f" height="20" '.
                'class="beam-money"/><rect x="%.1f" width="%.1f" height="20" class="beam-placed"/>%s<path d="M500 '.
                '0V20" class="beam-mark"/></svg><strong class="beam-text">%s</strong><span class="beam-left">%s '.
                '%s</span><span class="beam-right">%s %s</span></div>',
            $closed ? ' beam-closed' : ($over ? ' beam-over' : ''),
            $a,
            1000 - $b,
            $b,
            $over ? \sprintf('<rect x="%.1f" width="%.1f" height="20" class="beam-overhang"/>', $a, 500 - $a) : '',
            $text,
            htmlspecialchars($moneyWord),
            self::amount($money, $currency),
            htmlspecialchars($placedWord),
            self::amount($placed, $currency),
        );
    }
}
