<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Close\Verify;
use Symfony\Component\DependencyInjection\Attribute\Autowire;
use Symfony\Component\Process\PhpSubprocess;
use Symfony\Component\Process\Process;

/**
 * Verifies several companies at once, each in a process of its own.
 *
 * @phpstan-type CheckRow array{company: string, check: int, what: string, holds: string, found: list<string>}
 */
final readonly class VerifyApart
{
    public function __construct(#[Autowire('%kernel.project_dir%')] private string $root)
    {
    }

    /**
     * @param list<string> $codes of the companies
     * @param \Closure(string): void $tell how far each is, a line at a time
     *
     * @return list<CheckRow> in the order of the codes; a company whose process broke off has one row that says so
     */
    public function of(array $codes, int $atOnce, \Closure $tell): array
    {
        $waiting = $codes;
        $running = $said = [];
        while ([] !== $waiting || [] !== $running) {
            while ([] !== $waiting && \count($running) < $atOnce) {
                $code = array_shift($waiting);
                $running[$code] = $this->begun($code);
            }
            foreach ($running as $key => $process) {
                // a code of digits alone is a number to an array
                $code = (string) $key;
                $lines = trim($process->getIncrementalErrorOutput());
                '' === $lines ? null : $tell($lines);
                if (!$process->isRunning()) {
                    $said[$code] = self::rows($code, $process);
                    unset($running[$key]);
                }
            }
            usleep(50_000);
        }

        return array_merge(...array_map(static fn (string $code): array => $said[$code], $codes));
    }

    private function begun(string $code): Process
    {
        $process = new PhpSubprocess(
            [$this->root.'/bin/console', 'nelbix:verify', '--company='.$code, '--format=json'],
            $this->root,
        );
        $process->setTimeout(null);
        $process->start();

        return $process;
    }

    /** @return list<CheckRow> */
    private static function rows(string $code, Process $process): array
    {
        $rows = json_decode($process->getOutput(), true);
        if (\is_array($rows) && \count($rows) === \count(Verify::CHECKS)) {
            /** @var list<CheckRow> $rows */
            return $rows;
        }

        return [
            [
                'company' => $code,
                'check' => 0,
                'what' => 'the checks were done to their end',
                'holds' => 'NO',
                'found' => [trim($process->getErrorOutput().$process->getOutput())],
            ],
        ];
    }
}
