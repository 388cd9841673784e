<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Symfony\Component\Process\Exception\ExceptionInterface;
use Symfony\Component\Process\Process;

/**
 * Runs a program on a file from outside, apart from the application: with little memory and time, without its secrets in the
 * environment, and never as root.
 */
final class Apart
{
    private const MEMORY_KB = 262_144;
    private const SECONDS = 10;
    private const MOST_BYTES = 20_000_000;

    /**
     * @param list<string> $command
     *
     * @return string|null what it wrote; null when it failed, or took more than it may
     */
    public static function run(array $command, string $input): ?string
    {
        $limits = \sprintf('ulimit -v %d -t %d -f 0 -c 0; exec "$@"', self::MEMORY_KB, self::SECONDS);
        $nobody = ['setpriv', '--reuid=65534', '--regid=65534', '--clear-groups', '--no-new-privs'];
        $process = new Process(
            ['bash', '-c', $limits, 'apart', ...0 === posix_geteuid() ? $nobody : [], ...$command],
            '/',
            self::environment(),
            $input,
            self::SECONDS + 1,
        );
        $output = '';
        try {
            $process->run(static function (string $type, string $piece) use (&$output, $process): void {
                $output .= Process::OUT === $type ? $piece : '';
                if (\strlen($output) > self::MOST_BYTES) {
                    $process->stop(0);
                }
            });
        } catch (ExceptionInterface) {
            return null;
        }

        return $process->isSuccessful() && '' !== $output && \strlen($output) <= self::MOST_BYTES ? $output : null;
    }

    /** @return array<string, string|false> false takes a variable away */
    private static function environment(): array
    {
        $names = [...array_keys($_SERVER), ...array_keys($_ENV), ...array_keys(getenv())];

        return [
            ...array_fill_keys(array_map(strval(...), $names), false),
            'PATH' => '/usr/bin:/bin',
            'LANG' => 'C.UTF-8',
        ];
    }
}
