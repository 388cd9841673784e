<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Nelbix\Core\Calendar\Day;
use Symfony\Contracts\Translation\TranslatorInterface;
use Twig\Extension\AbstractExtension;
use Twig\TwigFilter;

/**
 * What goes out on paper, in the language of whoever reads it: words out of translations/letters, days and amounts as they are set there.
 * Source of the forms of days and amounts: CLDR, by way of ICU.
 */
final class Letters extends AbstractExtension
{
    public const LANGUAGES = ['en' => 'English', 'de' => 'Deutsch', 'es' => 'Español', 'fr' => 'Français'];

    public function __construct(private readonly TranslatorInterface $translator)
    {
    }

    public function getFilters(): array
    {
        return [
            new TwigFilter('say', $this->say(...)),
            new TwigFilter('letter_day', self::day(...)),
            new TwigFilter('letter_amount', self::amount(...)),
        ];
    }

    /** @param array<string, string|int> $with what stands in its places */
    public function say(string $words, string $language, array $with = []): string
    {
        return $this->translator->trans($words, $with, 'letters', $language);
    }

    public static function day(string|Day|null $day, string $language): string
    {
        $long = Typography::day($day);
        if ('' === $long || 'en' === $language) {
            return $long;
        }
        $date = new \DateTimeImmutable(
            $day instanceof Day ? $day->iso() : substr((string) $day, 0, 10),
            new \DateTimeZone('UTC'),
        );

        return (string) (new \IntlDateFormatter(
            $language,
            \IntlDateFormatter::MEDIUM,
            \IntlDateFormatter::NONE,
            'UTC',
        ))->format($date);
    }

    public static function amount(?int $minor, string $currency, string $language): string
    {
        $set = Typography::amount($minor, $currency);
        if ('en' === $language) {
            return $set;
        }
        $form = new \NumberFormatter($language, \NumberFormatter::DECIMAL);

        return strtr($set, [
            ',' => (string) $form->getSymbol(\NumberFormatter::GROUPING_SEPARATOR_SYMBOL),
            '.' => (string) $form->getSymbol(\NumberFormatter::DECIMAL_SEPARATOR_SYMBOL),
        ]);
    }
}
