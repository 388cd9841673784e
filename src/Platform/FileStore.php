<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\ParameterType;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Uploaded files, kept in the database like everything else. What a file is, its bytes say, never its name. */
final readonly class FileStore
{
    public const MOST_BYTES = 20_000_000;

    /** What a document's paper may be. */
    public const PAPERS = ['application/pdf', 'image/png', 'image/jpeg', 'image/webp'];

    private const ENDINGS = [
        'application/pdf' => 'pdf',
        'image/png' => 'png',
        'image/jpeg' => 'jpg',
        'image/webp' => 'webp',
        'image/tiff' => 'tif',
        'text/csv' => 'csv',
        'application/xml' => 'xml',
    ];

    /** Media types by what the file starts with; nothing that a browser or a desk would run. */
    private const SIGNATURES = [
        '%PDF-' => 'application/pdf',
        "\x89PNG\r\n\x1a\n" => 'image/png',
        "\xFF\xD8\xFF" => 'image/jpeg',
        "II*\0" => 'image/tiff',
        "MM\0*" => 'image/tiff',
    ];

    public function __construct(private Connection $db, private ClockInterface $clock)
    {
    }

    /**
     * @param string $subject what it belongs to, such as import or document
     * @param list<string> $allowed media types that may be kept
     *
     * @return int its id
     *
     * @throws Refused when it is empty, too big or of another type
     */
    public function keep(
        Actor $actor,
        string $subject,
        ?int $subjectId,
        string $name,
        string $bytes,
        array $allowed,
        string $field = 'file',
    ): int {
        if ('' === $bytes) {
            throw Refused::because($field, 'The file is empty; choose another.');
        }
        if (\strlen($bytes) > self::MOST_BYTES) {
            throw Refused::because(
                $field,
                \sprintf(
                    'The file has %.1f MB; at most %d MB can be kept.',
                    \strlen($bytes) / 1_000_000,
                    intdiv(self::MOST_BYTES, 1_000_000),
                ),
            );
        }
        $type = self::sniff($bytes);
        if (!\in_array($type, $allowed, true)) {
            throw Refused::because(
                $field,
                \sprintf(
                    'The file is %s; %s can be kept here.',
                    null === $type ? 'of no kind that is known here' : $type,
                    implode(', ', $allowed),
                ),
            );
        }
        // the name is only ever shown
        $plain = mb_substr(
            trim(
                (string) preg_replace(
                    '/[^\p{L}\p{N} ._()-]+/u',
                    ' ',
                    basename(str_replace('\\', '/', mb_scrub($name))),
                ),
            ),
            -160,
        );
        $this->db->executeStatement(
            <<<'SQL'
            INSERT INTO stored_file (company_id, subject, subject_id, name, media_type, size, sha256, content, created_by_id,
                created_at)
            VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
            SQL
            ,
            [
                $actor->companyId,
                $subject,
                $subjectId,
                '' === $plain ? 'file' : $plain,
                $type,
                \strlen($bytes),
                hash('sha256', $bytes),
                $bytes,
                $actor->userId,
                $this->clock->now()->format('Y-m-d H:i:s'),
            ],
            [7 => ParameterType::LARGE_OBJECT],
        );

        return (int) $this->db->lastInsertId();
    }

    /**
     * @return array{id: int, name: string, media_type: string, content: string, created_by: int, subject_id: ?int, sha256: string,
     *     pages: int}|null
     */
    public function read(int $companyId, string $subject, int $id): ?array
    {
        $row = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT id, name, media_type, content, created_by_id, subject_id, sha256, pages
            FROM stored_file
            WHERE id = ? AND company_id = ? AND subject = ?
            SQL
            ,
            [$id, $companyId, $subject],
        );

        if (false !== $row && hash('sha256', (string) $row['content']) !== $row['sha256']) {
            throw new \RuntimeException(\sprintf('The bytes of file %d are not those that were kept.', $id));
        }

        return false === $row
            ? null
            : [
                'id' => (int) $row['id'],
                'name' => (string) $row['name'],
                'media_type' => (string) $row['media_type'],
                'content' => (string) $row['content'],
                'created_by' => (int) $row['created_by_id'],
                'subject_id' => null === $row['subject_id'] ? null : (int) $row['subject_id'],
                'sha256' => (string) $row['sha256'],
                'pages' => (int) $row['pages'],
            ];
    }

    /** @return list<array{id: int, name: string, media_type: string, size: int, pages: int}> what belongs to a record, without the bytes */
    public function of(int $companyId, string $subject, int $subjectId): array
    {
        return array_map(
            static fn (array $r): array => [
                'id' => (int) $r['id'],
                'name' => (string) $r['name'],
                'media_type' => (string) $r['media_type'],
                'size' => (int) $r['size'],
                'pages' => (int) $r['pages'],
            ],
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT id, name, media_type, size, pages
                FROM stored_file
                WHERE company_id = ? AND subject = ? AND subject_id = ?
                ORDER BY id
                SQL
                ,
                [$companyId, $subject, $subjectId],
            ),
        );
    }

    /** The name of a download: what was uploaded is kept for show, and the ending is that of the bytes. */
    public static function downloadName(string $name, string $mediaType): string
    {
        $stem = (string) preg_replace('/\.[A-Za-z0-9]{1,5}\z/', '', $name);
        $stem = trim((string) preg_replace('/[^A-Za-z0-9 _-]+/', '_', $stem), ' _-');

        return ('' === $stem ? 'file' : substr($stem, 0, 80)).'.'.(self::ENDINGS[$mediaType] ?? 'bin');
    }

    public function drop(int $companyId, string $subject, int $id): void
    {
        $this->db->executeStatement('DELETE FROM stored_file WHERE id = ? AND company_id = ? AND subject = ?', [
            $id,
            $companyId,
            $subject,
        ]);
    }

    /** Gives a file that its clerk kept without a record to it; nobody else’s. */
    public function give(Actor $actor, string $subject, int $id, int $subjectId): void
    {
        $this->db->executeStatement(
            <<<'SQL'
            UPDATE stored_file
            SET subject_id = ?
            WHERE id = ? AND company_id = ? AND subject = ? AND subject_id IS NULL AND created_by_id = ?
            SQL
            ,
            [$subjectId, $id, $actor->companyId, $subject, $actor->userId],
        );
    }

    public static function sniff(string $bytes): ?string
    {
        foreach (self::SIGNATURES as $start => $type) {
            if (str_starts_with($bytes, $start)) {
                return $type;
            }
        }
        if (str_starts_with($bytes, 'RIFF') && 'WEBP' === substr($bytes, 8, 4)) {
            return 'image/webp';
        }
        $text = str_starts_with($bytes, "\xEF\xBB\xBF") ? substr($bytes, 3) : $bytes;
        if (
            mb_check_encoding($text, 'UTF-8')
            && 1 !== preg_match('/[\x00-\x08\x0E-\x1F]/', substr($text, 0, 100_000))
        ) {
            return 1 === preg_match('/\A\s*<\?xml[\s>]/', $text)
                ? 'application/xml'
                : (1 === preg_match('/\A\s*</', $text)
                    ? null
                    : 'text/csv');
        }

        return null;
    }
}
