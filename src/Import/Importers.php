<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\AutowireIterator;

/** The kinds of CSV file and who takes each over. */
final readonly class Importers
{
    /** @param iterable<CsvImporter> $importers */
    public function __construct(#[AutowireIterator(CsvImporter::class)] private iterable $importers)
    {
    }

    /** What a file of a kind holds, in words. */
    public static function words(string $kind): string
    {
        return 'journal' === $kind ? 'journal entries' : str_replace('-', ' ', $kind);
    }

    /** @return list<string> */
    public function kinds(): array
    {
        $kinds = [];
        foreach ($this->importers as $importer) {
            array_push($kinds, ...$importer->kinds());
        }
        sort($kinds);

        return $kinds;
    }

    /** @return array{required: list<string>, optional: list<string>} */
    public function columns(string $kind): array
    {
        $importer = $this->of($kind);

        return ['required' => $importer->required($kind), 'optional' => $importer->optional($kind)];
    }

    /** @throws Refused when the kind is unknown */
    public function of(string $kind): CsvImporter
    {
        foreach ($this->importers as $importer) {
            if (\in_array($kind, $importer->kinds(), true)) {
                return $importer;
            }
        }
        throw Refused::because(
            'kind',
            \sprintf('“%s” is not a kind of file; %s are.', $kind, implode(', ', $this->kinds())),
        );
    }
}
