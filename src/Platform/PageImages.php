<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\Autowire;
use Symfony\Component\Process\Exception\ExceptionInterface;
use Symfony\Component\Process\Process;

/** Pictures of the pages of an uploaded PDF or image, made by poppler or GD apart from the application; kept in the cache folder. */
final readonly class PageImages
{
    private const WIDTH = 1400;
    private const MOST_PAGES = 100;
    private const MOST_PIXELS = 60_000_000;

    public function __construct(
        private FileStore $files,
        #[Autowire('%kernel.cache_dir%/pages')] private string $folder,
    ) {
    }

    /** @throws Refused when the file cannot be read as what it claims to be */
    public function count(int $companyId, int $id): int
    {
        $file =
            $this->files->read($companyId, 'paper', $id) ??
            throw Refused::because('paper', 'There is no such paper.', ProblemKind::Unknown);
        if ('application/pdf' !== $file['media_type']) {
            $size = @getimagesizefromstring($file['content']);
            if (false === $size || $size[0] * $size[1] > self::MOST_PIXELS || $size[0] * $size[1] < 1) {
                throw Refused::because(
                    'paper',
                    'The picture cannot be read, or is larger than 60 million pixels; scan it again.',
                );
            }

            return 1;
        }
        $pages =
            1 === preg_match('/^Pages:\s+(\d+)/m', $this->run(['pdfinfo', '-'], $file['content']) ?? '', $m)
                ? (int) $m[1]
                : 0;
        if ($pages < 1 || $pages > self::MOST_PAGES) {
            throw Refused::because(
                'paper',
                0 === $pages
                    ? 'The PDF cannot be read; it may be damaged or need a password. Print it to a new one.'
                    : \sprintf('The PDF has %d pages; at most %d can be kept.', $pages, self::MOST_PAGES),
            );
        }

        return $pages;
    }

    /** The PNG of a page, counted from 1; null when there is no such page. */
    public function page(int $companyId, int $id, int $page): ?string
    {
        $file = $this->files->read($companyId, 'paper', $id);
        if (null === $file || $page < 1 || $page > self::MOST_PAGES) {
            return null;
        }
        $kept = \sprintf('%s/%s-%d.png', $this->folder, $file['sha256'], $page);
        if (is_file($kept)) {
            return (string) file_get_contents($kept);
        }
        $png =
            'application/pdf' === $file['media_type']
                ? $this->run(
                    [
                        'pdftoppm',
                        '-png',
                        '-f',
                        (string) $page,
                        '-l',
                        (string) $page,
                        '-scale-to-x',
                        (string) self::WIDTH,
                        '-scale-to-y',
                        '-1',
                        '-',
                    ],
                    $file['content'],
                )
                : (1 === $page
                    ? self::redrawn($file['content'])
                    : null);
        if (null === $png || '' === $png) {
            return null;
        }
        if (!is_dir($this->folder)) {
            @mkdir($this->folder, 0700, true);
        }
        @file_put_contents($kept, $png);

        return $png;
    }

    /** A picture drawn anew: nothing that was hidden in the file comes along. */
    private static function redrawn(string $bytes): ?string
    {
        $size = @getimagesizefromstring($bytes);
        $image = false === $size || $size[0] * $size[1] > self::MOST_PIXELS ? false : @imagecreatefromstring($bytes);
        if (false === $image) {
            return null;
        }
        $image = imagesx($image) > self::WIDTH ? (imagescale($image, self::WIDTH) ?: $image) : $image;
        ob_start();
        imagepng($image);

        return (string) ob_get_clean();
    }

    /** @param list<string> $command */
    private function run(array $command, string $input): ?string
    {
        try {
            $process = new Process($command, null, null, $input, 20);
            $process->run();
        } catch (ExceptionInterface) {
            return null;
        }

        return $process->isSuccessful() ? $process->getOutput() : null;
    }
}
