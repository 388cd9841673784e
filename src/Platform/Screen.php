<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Nelbix\Core\Formats\Xlsx;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Bundle\FrameworkBundle\Controller\AbstractController;
use Symfony\Component\HttpFoundation\BinaryFileResponse;
use Symfony\Component\HttpFoundation\ParameterBag;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\HttpFoundation\StreamedResponse;
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
     * Runs an action and goes on to $route; a refusal is shown there instead.
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
            $this->addFlash('refused', $e->getMessage());
        }

        return $this->redirectToRoute($route, $parameters, Response::HTTP_SEE_OTHER);
    }

    /**
     * @param list<Problem> $problems
     *
     * @return array<string, string> first message by field
     */
    protected static function byField(array $problems): array
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
        return \in_array($request->query->get('format'), ['csv', 'xlsx'], true);
    }

    /**
     * A list as the file that the request asks for: CSV, or a workbook with one sheet.
     *
     * @param list<string> $header
     * @param iterable<list<string|int>> $rows
     */
    protected function exported(Request $request, string $name, array $header, iterable $rows): Response
    {
        if ('xlsx' !== $request->query->get('format')) {
            return $this->csv($name, $header, $rows);
        }
        [$path, $sheet] = [self::temporary(), self::temporary()];
        $file = fopen($sheet, 'w') ?: throw new \RuntimeException('No room for a file.');
        foreach (Xlsx::sheet($header, $rows) as $xml) {
            fwrite($file, $xml);
        }
        fclose($file);
        $zip = new \ZipArchive();
        $zip->open($path, \ZipArchive::OVERWRITE);
        foreach (Xlsx::parts($name) as $part => $xml) {
            $zip->addFromString($part, $xml);
        }
        $zip->addFile($sheet, Xlsx::SHEET);
        $zip->close();
        unlink($sheet);

        return (new BinaryFileResponse(
            $path,
            200,
            [
                'Content-Type' => 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
                'Content-Disposition' => 'attachment; filename="'.$name.'.xlsx"',
            ],
            false,
        ))->deleteFileAfterSend();
    }

    private static function temporary(): string
    {
        return tempnam(sys_get_temp_dir(), 'nelbix') ?: throw new \RuntimeException('No room for a file.');
    }

    /**
     * @param list<string> $header
     * @param iterable<list<string|int>> $rows
     */
    private function csv(string $name, array $header, iterable $rows): Response
    {
        $response = new StreamedResponse(static function () use ($header, $rows): void {
            $out = fopen('php://output', 'w') ?: throw new \RuntimeException('No output.');
            fputcsv($out, $header, ',', '"', '', "\r\n");
            foreach ($rows as $row) {
                // a cell that a spreadsheet would take for a formula is kept as text
                fputcsv(
                    $out,
                    array_map(
                        static fn (string|int $cell): string|int => \is_string($cell)
                        && 1 === preg_match('/\A\s*[=@+\t\r]|\A\s*-(?!\d[\d.]*\z)/', $cell)
                            ? "'".$cell
                            : $cell,
                        $row,
                    ),
                    ',',
                    '"',
                    '',
                    "\r\n",
                );
            }
            fclose($out);
        });
        $response->headers->set('Content-Type', 'text/csv; charset=UTF-8');
        $response->headers->set('Content-Disposition', 'attachment; filename="'.$name.'.csv"');

        return $response;
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

    protected static function isLive(Request $request): bool
    {
        return 'true' === $request->headers->get('HX-Request');
    }
}
