<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Symfony\Component\Process\Process;

/** A square of modules that a telephone reads, drawn as one SVG path. The modules come from Debian's qrencode, through its input. */
final class QrCode
{
    /**
     * @return array{size: int, path: string} modules along a side, quiet zone included; the dark ones as a path
     */
    public static function of(#[\SensitiveParameter] string $text): array
    {
        $process = new Process(
            ['qrencode', '-t', 'ASCII', '-m', '4', '-l', 'M'],
            null,
            ['PATH' => '/usr/bin:/bin'],
            $text,
            10,
        );
        $process->mustRun();
        $rows = explode("\n", rtrim($process->getOutput(), "\n"));
        $path = '';
        foreach ($rows as $y => $row) {
            foreach (str_split(rtrim($row), 2) as $x => $module) {
                $path .= '##' === $module ? \sprintf('M%d %dh1v1h-1z', $x, $y) : '';
            }
        }

        return ['size' => \count($rows), 'path' => $path];
    }
}
