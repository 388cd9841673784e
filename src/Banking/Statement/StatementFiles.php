<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Nelbix\Core\Formats\Statement\Bai2Reader;
use Nelbix\Core\Formats\Statement\BankStatement;
use Nelbix\Core\Formats\Statement\Camt053Reader;
use Nelbix\Core\Formats\Statement\Mt940Reader;
use Nelbix\Core\Formats\Statement\OfxReader;
use Nelbix\Core\Formats\Statement\StatementReader;
use Nelbix\Core\Refused;

/** Finds the reader of a file, by what the file begins with or as it is asked for. CSV needs a mapping and is read apart. */
final class StatementFiles
{
    /** @return array<string, StatementReader> by the word that stands for the format */
    private static function readers(): array
    {
        return [
            'camt053' => new Camt053Reader(),
            'mt940' => new Mt940Reader(),
            'bai2' => new Bai2Reader(),
            'ofx' => new OfxReader(),
        ];
    }

    /** @return string|null the format that a file says it has; null when it must be CSV, or nothing */
    public static function formatOf(string $bytes): ?string
    {
        foreach (self::readers() as $format => $reader) {
            if ($reader->knows($bytes)) {
                return $format;
            }
        }

        return null;
    }

    /**
     * @return non-empty-list<BankStatement>
     *
     * @throws Refused naming line and field
     */
    public static function read(string $bytes, string $format): array
    {
        $reader = self::readers()[$format] ?? null;
        if (null === $reader) {
            throw Refused::because(
                'format',
                \sprintf(
                    '“%s” is no format of statements here; known are camt053, mt940, bai2, ofx and csv.',
                    mb_strimwidth($format, 0, 20, '…'),
                ),
            );
        }

        return $reader->read($bytes);
    }
}
