<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\ParameterType;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;
use Symfony\Component\DependencyInjection\Attribute\Autowire;

/**
 * Pictures of the pages of an uploaded PDF or image: drawn once, by a worker, apart from the application; what could not be drawn is
 * remembered and not tried again.
 */
final readonly class PageImages
{
    private const WIDTH = 1400;
    private const MOST_PAGES = 100;
    private const MOST_PIXELS = 25_000_000;

    /** Seconds after which a worker that took a paper is taken for dead. */
    private const LEASE = 120;

    public function __construct(
        private FileStore $files,
        private Connection $db,
        private ClockInterface $clock,
        #[Autowire('%kernel.project_dir%')] private string $root,
    ) {
    }

    /**
     * Looks at a paper that was kept just now, and lets a worker draw its pages.
     *
     * @return int how many there are
     *
     * @throws Refused when the file cannot be read as what it claims to be
     */
    public function expect(int $companyId, int $id): int
    {
        $file =
            $this->files->read($companyId, 'paper', $id) ??
            throw Refused::because('paper', 'There is no such paper.', ProblemKind::Unknown);
        $pages =
            'application/pdf' === $file['media_type']
                ? self::ofPdf($file['content'])
                : self::ofPicture($file['content']);
        $this->db->executeStatement(
            'UPDATE stored_file SET pages = ?, to_draw_from = ? WHERE id = ? AND company_id = ?',
            [$pages, $this->clock->now()->format('Y-m-d H:i:s'), $id, $companyId],
        );

        return $pages;
    }

    /** @return string|false|null the PNG of a page, counted from 1; false when it cannot be drawn, null while it waits for a worker */
    public function page(string $sha256, int $page): string|false|null
    {
        $row = $this->db->fetchAssociative('SELECT png FROM page_image WHERE sha256 = ? AND page = ?', [
            $sha256,
            $page,
        ]);

        return false === $row ? null : $row['png'] ?? false;
    }

    /** Somebody looks at a paper whose pictures were forgotten: they are drawn once more. */
    public function ask(int $companyId, int $id): void
    {
        $this->db->executeStatement(
            'UPDATE stored_file SET to_draw_from = ? WHERE id = ? AND company_id = ? AND to_draw_from IS NULL',
            [$this->clock->now()->format('Y-m-d H:i:s'), $id, $companyId],
        );
    }

    /** Draws all pages of the paper that waits longest; false when none waits. */
    public function drawNext(): bool
    {
        $now = $this->clock->now()->format('Y-m-d H:i:s');
        $row = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT id, company_id, to_draw_from
            FROM stored_file
            WHERE to_draw_from <= ?
            ORDER BY to_draw_from, id
            LIMIT 1
            SQL
            ,
            [$now],
        );
        if (false === $row) {
            return false;
        }
        $until = $this->clock
            ->now()
            ->modify('+'.self::LEASE.' seconds')
            ->format('Y-m-d H:i:s');
        // of two workers one has it; the other looks for another
        $mine = $this->db->executeStatement(
            'UPDATE stored_file SET to_draw_from = ? WHERE id = ? AND to_draw_from = ?',
            [$until, $row['id'], $row['to_draw_from']],
        );
        $file = 1 === $mine ? $this->files->read((int) $row['company_id'], 'paper', (int) $row['id']) : null;
        for ($page = 1; null !== $file && $page <= $file['pages']; ++$page) {
            if (null === $this->page($file['sha256'], $page)) {
                $this->keep($file['sha256'], $page, $this->draw($file['media_type'], $file['content'], $page));
            }
        }
        $this->db->executeStatement('UPDATE stored_file SET to_draw_from = NULL WHERE id = ? AND to_draw_from = ?', [
            $row['id'],
            $until,
        ]);

        return true;
    }

    private function keep(string $sha256, int $page, ?string $png): void
    {
        $this->db->executeStatement(
            'INSERT IGNORE INTO page_image (sha256, page, png, drawn_at) VALUES (?, ?, ?, ?)',
            [$sha256, $page, $png, $this->clock->now()->format('Y-m-d H:i:s')],
            [2 => null === $png ? ParameterType::NULL : ParameterType::LARGE_OBJECT],
        );
    }

    private function draw(string $mediaType, string $content, int $page): ?string
    {
        $size = ['-scale-to-x', (string) self::WIDTH, '-scale-to-y', '-1'];

        $png =
            'application/pdf' === $mediaType
                ? Apart::run(['pdftoppm', '-png', '-f', (string) $page, '-l', (string) $page, ...$size, '-'], $content)
                : Apart::run(
                    [
                        'php8.2',
                        '-n',
                        '-d',
                        'extension=gd.so',
                        '-r',
                        // by its text: whoever runs apart need not be able to read where the code lies
                        (string) preg_replace(
                            '/\A#!.*\R<\?php/',
                            '',
                            (string) file_get_contents($this->root.'/bin/draw'),
                        ),
                        '--',
                        (string) self::WIDTH,
                        (string) self::MOST_PIXELS,
                    ],
                    $content,
                );

        // poppler draws a single dot, and says that all is well, where it had not the memory for a page
        return null !== $png && (getimagesizefromstring($png) ?: [0])[0] > 1 ? $png : null;
    }

    private static function ofPicture(string $content): int
    {
        $size = @getimagesizefromstring($content);
        if (false === $size || $size[0] * $size[1] > self::MOST_PIXELS || $size[0] * $size[1] < 1) {
            throw Refused::because(
                'paper',
                'The picture cannot be read, or is larger than 25 million pixels; scan it again.',
            );
        }

        return 1;
    }

    private static function ofPdf(string $content): int
    {
        $pages =
            1 === preg_match('/^Pages:\s+(\d+)/m', Apart::run(['pdfinfo', '-'], $content) ?? '', $m) ? (int) $m[1] : 0;
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
}
