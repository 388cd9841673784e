<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Brick\Math\BigDecimal;
use Nelbix\Core\Formats\Xlsx;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;
use Symfony\Component\HttpFoundation\BinaryFileResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\HttpFoundation\StreamedResponse;

/**
 * A list as the file that is asked for: CSV as programs read it (with mark=1 as spreadsheets need it), a workbook with words above its
 * columns and a line of totals, or a PDF for paper, with what it shows, as of when, and who printed it.
 */
final readonly class ListFile
{
    public const FORMATS = ['csv', 'xlsx', 'pdf'];

    /** Rows of a PDF: some forty pages. More are for a workbook, and are said, not cut. */
    private const MOST_ON_PAPER = 1000;

    /** So many rows are looked at for the widths of a workbook's columns. */
    private const LOOKED_AT = 200;

    public function __construct(private Paper $paper, private ClockInterface $clock)
    {
    }

    /**
     * @param list<string> $header names of the columns, as a program reads them
     * @param iterable<list<string|int>> $rows
     *
     * @throws Refused when there are more rows than go on paper
     */
    public function answer(Request $request, string $name, array $header, iterable $rows): Response
    {
        return match ($request->query->get('format')) {
            'xlsx' => $this->workbook($name, $header, $rows),
            'pdf' => $this->onPaper($request, $name, $header, $rows),
            default => $this->csv($name, $header, $rows, '1' === $request->query->get('mark')),
        };
    }

    /**
     * @param list<string> $header
     * @param iterable<list<string|int>> $rows
     */
    private function workbook(string $name, array $header, iterable $rows): Response
    {
        [$path, $sheet] = [self::temporary(), self::temporary()];
        $file = fopen($sheet, 'w') ?: throw new \RuntimeException('No room for a file.');
        [$first, $rest] = self::begun($rows);
        foreach (
            Xlsx::sheet(
                array_map(Words::heading(...), $header),
                $rest,
                self::widths($header, $first),
                self::sums($header),
            ) as $xml
        ) {
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

    /**
     * The first rows, and all of them again.
     *
     * @param iterable<list<string|int>> $rows
     *
     * @return array{list<list<string|int>>, \Generator<int, list<string|int>>}
     */
    private static function begun(iterable $rows): array
    {
        $all = (static function () use ($rows): \Generator {
            foreach ($rows as $row) {
                yield $row;
            }
        })();
        $first = [];
        while ($all->valid() && \count($first) < self::LOOKED_AT) {
            $first[] = $all->current();
            $all->next();
        }

        return [
            $first,
            (static function () use ($first, $all): \Generator {
                foreach ($first as $row) {
                    yield $row;
                }
                while ($all->valid()) {
                    yield $all->current();
                    $all->next();
                }
            })(),
        ];
    }

    /**
     * @param list<string> $header
     * @param list<list<string|int>> $rows
     *
     * @return list<int> in characters
     */
    private static function widths(array $header, array $rows): array
    {
        $widths = array_map(static fn (string $h): int => mb_strlen($h) + 3, $header);
        foreach ($rows as $row) {
            foreach ($row as $k => $cell) {
                $widths[$k] = max($widths[$k] ?? 0, min(50, mb_strlen((string) $cell) + 2));
            }
        }

        return array_values($widths);
    }

    /**
     * Amounts add up; what is no amount, or stands in several currencies without saying the base, does not.
     *
     * @param list<string> $header
     *
     * @return list<int> columns
     */
    private static function sums(array $header): array
    {
        $no = '/percent|rate|yield|price|quantity|days|rounding|number|limit/';

        return array_keys(array_filter($header, static fn (string $h): bool => 1 !== preg_match($no, $h)));
    }

    /**
     * @param list<string> $header
     * @param iterable<list<string|int>> $rows
     *
     * @throws Refused
     */
    private function onPaper(Request $request, string $name, array $header, iterable $rows): Response
    {
        $printed = [];
        foreach ($rows as $row) {
            if (self::MOST_ON_PAPER === \count($printed)) {
                throw Refused::because(
                    'format',
                    \sprintf(
                        'This list has more than %s; narrow it with its filters, or take the workbook.',
                        Words::count(self::MOST_ON_PAPER, 'row'),
                    ),
                );
            }
            $printed[] = $row;
        }
        $desk = $request->attributes->get('_desk');
        \assert($desk instanceof Desk);

        return $this->paper->pdf(
            'platform/list_pdf.html.twig',
            [
                'title' => ucfirst(str_replace('-', ' ', (string) preg_replace('/-\d{4}-\d\d-\d\d\z/', '', $name))),
                'company' => $desk->company->name,
                'header' => array_map(Words::heading(...), $header),
                'numeric' => self::numeric($header, $printed),
                'totals' => self::totals($header, $printed),
                'rows' => array_map(static fn (array $row): array => array_map(self::set(...), $row), $printed),
                'filters' => self::filters($request),
                'as_of' => $desk->today,
                'at' => $this->clock->now(),
            ],
            $name,
            true,
        );
    }

    /**
     * @param list<string> $header
     * @param list<list<string|int>> $rows
     *
     * @return list<bool> by column: every cell that has something has a number
     */
    private static function numeric(array $header, array $rows): array
    {
        return array_map(
            static fn (int $k): bool => [] !== $rows
                && [] ===
                    array_filter(
                        array_column($rows, $k),
                        static fn (string|int $cell): bool => '' !== $cell
                            && 1 !== preg_match('/\A-?\d+(\.\d+)?\z/', (string) $cell),
                    ),
            array_keys($header),
        );
    }

    /** An amount as it is set on paper: 1,280.00 with a true minus. */
    private static function set(string|int $cell): string|int
    {
        return match (true) {
            \is_int($cell) => $cell,
            self::isAmount($cell) => str_replace('-', '−', (string) preg_replace('/\B(?=(\d{3})+\.)/', ',', $cell)),
            1 === preg_match('/\A[a-z]+(_[a-z]+)+\z/', $cell) => str_replace('_', ' ', $cell),
            default => $cell,
        };
    }

    private static function isAmount(string|int $cell): bool
    {
        return \is_string($cell) && 1 === preg_match('/\A-?\d{1,15}\.\d+\z/', $cell);
    }

    /**
     * @param list<string> $header
     * @param list<list<string|int>> $rows
     *
     * @return array<int, string|int> by column, of amounts in one currency
     */
    private static function totals(array $header, array $rows): array
    {
        $currency = array_search('currency', $header, true);
        if (false !== $currency && \count(array_unique(array_column($rows, $currency))) > 1) {
            return [];
        }
        $totals = [];
        foreach (self::sums($header) as $k) {
            $amounts = array_filter(array_column($rows, $k), self::isAmount(...));
            if ([] !== $amounts) {
                $totals[$k] = self::set(
                    (string) BigDecimal::sum(...array_map(BigDecimal::of(...), array_values($amounts))),
                );
            }
        }

        return $totals;
    }

    /** @return array<string, string> what the list was asked for, in words */
    private static function filters(Request $request): array
    {
        $filters = [];
        foreach ($request->query->all() as $key => $value) {
            if (
                \is_string($value)
                && '' !== trim($value)
                && !\in_array($key, ['format', 'mark', 'after', 'order'], true)
            ) {
                $filters[Words::heading((string) $key)] = mb_strimwidth($value, 0, 60, '…');
            }
        }

        return $filters;
    }

    /**
     * @param list<string> $header
     * @param iterable<list<string|int>> $rows
     */
    private function csv(string $name, array $header, iterable $rows, bool $mark): Response
    {
        $response = new StreamedResponse(static function () use ($header, $rows, $mark): void {
            $out = fopen('php://output', 'w') ?: throw new \RuntimeException('No output.');
            fwrite($out, $mark ? "\u{feff}" : '');
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

    private static function temporary(): string
    {
        return tempnam(sys_get_temp_dir(), 'nelbix') ?: throw new \RuntimeException('No room for a file.');
    }
}
