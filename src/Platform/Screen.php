<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Bundle\FrameworkBundle\Controller\AbstractController;
use Symfony\Component\HttpFoundation\ParameterBag;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\HttpKernel\Exception\NotFoundHttpException;

/** What the controllers share: say what happened, show what was refused, export a list. */
abstract class Screen extends AbstractController
{
    /** Tells the person on the next page what happened. */
    protected function say(string $text): void
    {
        $this->addFlash('done', $text);
    }

    /**
     * Runs an action and goes on to $route; a refusal is shown there instead, and what was typed stands there again (see Kept).
     *
     * @param callable(): ?string $action says what happened
     * @param array<string, mixed> $parameters
     */
    protected function act(callable $action, string $route, array $parameters): Response
    {
        try {
            $said = $action();
            if (null !== $said) {
                $this->say($said);
            }
        } catch (Refused $e) {
            $this->refused($e);
        }

        return $this->redirectToRoute($route, $parameters, Response::HTTP_SEE_OTHER);
    }

    /** Says on the next page what was refused, and keeps what was sent for it (see Kept). */
    protected function refused(Refused $e): void
    {
        $this->addFlash('refused', $e->getMessage());
        $sent = $this->container->get('request_stack')->getMainRequest();
        if (null !== $sent) {
            $this->addFlash(...Kept::flash($sent, $e->problems));
        }
    }

    /**
     * @param list<Problem> $problems
     *
     * @return array<string, string> first message by field
     */
    public static function byField(array $problems): array
    {
        $by = [];
        foreach ($problems as $p) {
            $by[$p->field] ??= $p->message;
        }

        return $by;
    }

    /** The list is asked for as a file. */
    protected static function wantsFile(Request $request): bool
    {
        return \in_array($request->query->get('format'), ListFile::FORMATS, true);
    }

    /**
     * A list as the file that the request asks for.
     *
     * @param list<string> $header
     * @param iterable<list<string|int>> $rows
     */
    protected function exported(Request $request, string $name, array $header, iterable $rows): Response
    {
        $file = $this->container->get(ListFile::class);
        \assert($file instanceof ListFile);

        return $file->answer($request, $name, $header, $rows);
    }

    public static function getSubscribedServices(): array
    {
        return [...parent::getSubscribedServices(), ListFile::class];
    }

    /**
     * The rows of a form: what was typed, and empty ones to go on with.
     *
     * @param array<mixed> $raw
     * @param array<string, string> $empty the columns of a row
     *
     * @return list<array<string, string>>
     */
    protected static function formLines(array $raw, array $empty, int $least = 3): array
    {
        $lines = [];
        foreach (\is_array($raw['lines'] ?? null) ? \array_slice($raw['lines'], 0, 500) : [] as $line) {
            $lines[] = array_merge(
                $empty,
                array_map(
                    static fn (mixed $v): string => \is_string($v) ? $v : '',
                    array_intersect_key(\is_array($line) ? $line : [], $empty),
                ),
            );
        }

        return array_pad($lines, $least, $empty);
    }

    protected function found(mixed $record, int $companyId): object
    {
        if (!\is_object($record) || !property_exists($record, 'companyId') || $record->companyId !== $companyId) {
            throw new NotFoundHttpException('There is no such record in this company.');
        }

        return $record;
    }

    /**
     * A number that a link or a form carries; what is no number counts as not given.
     */
    protected static function int(ParameterBag $from, string $key, int $default = 0): int
    {
        $value = $from->all()[$key] ?? null;

        return \is_string($value) && 1 === preg_match('/\A-?\d{1,10}\z/', $value) ? (int) $value : $default;
    }

    /**
     * What a form says of the list it stands on, for the way back to the same list.
     *
     * @param list<string> $names
     *
     * @return array<string, string>
     */
    protected static function asked(ParameterBag $from, array $names): array
    {
        return array_filter(
            array_intersect_key($from->all(), array_flip($names)),
            static fn (mixed $v): bool => \is_string($v) && '' !== $v,
        );
    }

    protected static function isLive(Request $request): bool
    {
        return 'true' === $request->headers->get('HX-Request');
    }
}
