<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Nelbix\Core\Problem;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\RequestStack;
use Symfony\Component\HttpFoundation\Session\FlashBagAwareSessionInterface;
use Twig\Extension\AbstractExtension;
use Twig\TwigFunction;

/**
 * What was typed and picked in a form whose sending was refused, for the page that says so: kept(path) is the form's own address. It stands
 * there once; the page after it knows nothing of it.
 *
 * @phpstan-type KeptForm array{form: array<string, string|list<string>>, errors: array<string, string>}
 */
final class Kept extends AbstractExtension
{
    private const FLASH = 'kept';
    private const MOST_FIELDS = 40;
    private const MOST_CHARACTERS = 1000;
    private const MOST_PICKED = 2000;

    public function __construct(private readonly RequestStack $requests)
    {
    }

    public function getFunctions(): array
    {
        return [new TwigFunction('kept', $this->of(...))];
    }

    /**
     * @param list<Problem> $problems
     *
     * @return array{string, array{at: string, form: array<string, string|list<string>>, errors: array<string, string>}} the flash that
     *                                                                                                                   carries it
     */
    public static function flash(Request $request, array $problems): array
    {
        $form = [];
        foreach (\array_slice($request->request->all(), 0, self::MOST_FIELDS) as $name => $value) {
            if (!str_starts_with((string) $name, '_')) {
                $form[(string) $name] = \is_array($value) ? self::picked($value) : self::cut((string) $value);
            }
        }

        return [
            self::FLASH,
            [
                'at' => $request->getPathInfo(),
                'form' => $form,
                'errors' => Screen::byField($problems),
            ],
        ];
    }

    /**
     * @param array<mixed> $values
     *
     * @return list<string>
     */
    private static function picked(array $values): array
    {
        $texts = \array_slice(array_values(array_filter($values, is_string(...))), 0, self::MOST_PICKED);

        return array_map(self::cut(...), $texts);
    }

    private static function cut(string $typed): string
    {
        return mb_substr($typed, 0, self::MOST_CHARACTERS);
    }

    /** @return KeptForm empty when nothing was refused there just now */
    public function of(string $path): array
    {
        $request = $this->requests->getMainRequest();
        $session = true === $request?->hasPreviousSession() ? $request->getSession() : null;
        if (null === $request || !($session instanceof FlashBagAwareSessionInterface)) {
            return ['form' => [], 'errors' => []];
        }
        if (!$request->attributes->has('_kept')) {
            $request->attributes->set('_kept', $session->getFlashBag()->get(self::FLASH));
        }
        foreach ((array) $request->attributes->get('_kept') as $kept) {
            if ($path === $kept['at']) {
                return ['form' => $kept['form'], 'errors' => $kept['errors']];
            }
        }

        return ['form' => [], 'errors' => []];
    }
}
