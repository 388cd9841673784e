<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Symfony\Component\Filesystem\Filesystem;
use Symfony\Component\Process\Process;

/** A backup that somebody made or changed by hand: nothing in it is run, and what does not agree is not put back. */
final class BackupTest extends TestCase
{
    private const SECRET = 'APP_SECRET=0123456789abcdef0123456789abcdef0123456789abcdef0123456789abcdef';

    private string $folder;

    protected function setUp(): void
    {
        parent::setUp();
        $this->folder = sys_get_temp_dir().'/nelbix-backup-'.bin2hex(random_bytes(4));
        mkdir($this->folder);
        chmod($this->folder, 0777);
    }

    protected function tearDown(): void
    {
        $this->nelbix('stop');
        (new Filesystem())->remove($this->folder);
        parent::tearDown();
    }

    /** @param array<string, string|false> $environment */
    private function nelbix(string $command, string $file = '', array $environment = []): Process
    {
        $process = new Process(
            ['bash', \dirname(__DIR__, 2).'/nelbix', $command, ...'' === $file ? [] : [$file]],
            null,
            [
                'NELBIX_DATA' => $this->folder.'/back',
                'NELBIX_CACHE' => false,
                'NELBIX_LOG' => false,
                'APP_ENV' => false,
                'DATABASE_URL' => false,
                ...$environment,
            ],
            null,
            120,
        );
        $process->run();

        return $process;
    }

    /** @param array<string, string> $more contents by name, in place of those of a whole backup */
    private function backup(array $more = [], ?string $key = null, bool $agrees = true): string
    {
        $files = [
            'about' => "nelbix 1\nmade 2026-06-15T00:00:00Z\n",
            'settings' => self::SECRET."\nNELBIX_DEMO=0\n",
            'database.sql.gz' => (string) gzencode("SELECT 1;\n"),
            ...$more,
        ];
        $sums = '';
        foreach (
            $agrees ? $files : ['about' => 'x', 'settings' => 'y', 'database.sql.gz' => 'z'] as $name => $content
        ) {
            $sums .= hash('sha256', $content).'  '.$name."\n";
        }
        $files['checksums'] = $sums;
        if (null !== $key) {
            $files['keyed'] = hash_hmac('sha256', $sums, $key);
        }
        $made = $this->folder.'/made';
        (new Filesystem())->remove($made);
        mkdir($made);
        foreach ($files as $name => $content) {
            file_put_contents($made.'/'.$name, $content);
        }
        $file = $this->folder.'/books.nelbix';
        (new Process(['tar', '-C', $made, '-cf', $file, ...array_keys($files)]))->mustRun();

        return $file;
    }

    /** @return iterable<string, array{array<string, string>, bool, string}> contents, whether checksums agree, what is said */
    public static function crafted(): iterable
    {
        $not = 'The settings in the backup are not what a backup holds. Nothing was made.';
        $secret = self::SECRET;
        yield 'a sed program' => [['settings' => "APP_SECRET=x/;e touch %s\nNELBIX_DEMO=0\n"], true, $not];
        yield 'a shell command' => [['settings' => "APP_SECRET=\$(touch %s)\n"], true, $not];
        yield 'a secret that is too short' => [['settings' => "APP_SECRET=0123\nNELBIX_DEMO=0\n"], true, $not];
        yield 'another setting' => [['settings' => "$secret\nNELBIX_TRUSTED_PROXIES=0.0.0.0/0\n"], true, $not];
        yield 'a demo that is a command' => [['settings' => "$secret\nNELBIX_DEMO=1;touch %s\n"], true, $not];
        yield 'no settings' => [['settings' => ''], true, $not];
        yield 'tampered rows' => [[], false, 'The backup is not whole: its checksums do not agree. Nothing was made.'];
        yield 'another version' => [['about' => "nelbix 2\n"], true, 'The backup is of another version of Nelbix'];
    }

    /** @param array<string, string> $files */
    #[DataProvider('crafted')]
    public function testWhatIsCraftedIsRefusedBeforeAnythingIsMade(array $files, bool $agrees, string $said): void
    {
        $mark = $this->folder.'/mark';
        $file = $this->backup(
            array_map(static fn (string $c): string => str_replace('%s', $mark, $c), $files),
            null,
            $agrees,
        );
        $restore = $this->nelbix('restore', $file);
        self::assertSame(1, $restore->getExitCode());
        self::assertStringContainsString($said, $restore->getErrorOutput());
        self::assertFileDoesNotExist($mark);
        self::assertDirectoryDoesNotExist($this->folder.'/back/mysql');
    }

    public function testATruncatedFileIsRefused(): void
    {
        $file = $this->backup();
        file_put_contents($file, substr((string) file_get_contents($file), 0, 2_000));
        $restore = $this->nelbix('restore', $file);
        self::assertSame(1, $restore->getExitCode());
        self::assertStringContainsString('is no backup of Nelbix', $restore->getErrorOutput());
    }

    public function testWhereAKeyIsSetTheBackupMustCarryIt(): void
    {
        $said = function (?string $key): string {
            $restore = $this->nelbix('restore', $this->backup(['settings' => 'x'], $key), [
                'NELBIX_BACKUP_KEY' => 'of the house',
            ]);
            self::assertSame(1, $restore->getExitCode());

            return $restore->getErrorOutput();
        };
        $refused = 'The backup was not made with this key';
        self::assertStringContainsString($refused, $said(null));
        self::assertStringContainsString($refused, $said('another'));
        self::assertStringContainsString(
            'The settings in the backup',
            $said('of the house'),
            'the key is right, and the rest is looked at',
        );
    }

    /** The client that puts rows back takes no commands of its own, and its user may do nothing beside the books. */
    public function testNoCommandAmongTheRowsIsRun(): void
    {
        $mark = $this->folder.'/mark';
        foreach (
            [
                "\\! touch $mark\n",
                "system touch $mark\n",
                "SELECT 1 INTO OUTFILE '$mark';\n",
                "CREATE DATABASE beside;\n",
            ] as $sql
        ) {
            (new Filesystem())->remove($this->folder.'/back');
            $restore = $this->nelbix('restore', $this->backup(['database.sql.gz' => (string) gzencode($sql)]));
            self::assertSame(1, $restore->getExitCode(), $sql);
            self::assertFileDoesNotExist($mark);
            self::assertDirectoryDoesNotExist($this->folder.'/back/mysql/beside');
            $this->nelbix('stop');
        }
    }
}
