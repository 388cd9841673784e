<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Symfony\Bundle\FrameworkBundle\KernelBrowser;
use Symfony\Component\DomCrawler\Crawler;
use Symfony\Component\HttpFoundation\File\UploadedFile;

/** The screens as plain pages and form posts, signed in as the controller until another role is named. */
abstract class ScreenCase extends AppCase
{
    protected KernelBrowser $browser;

    protected function setUp(): void
    {
        $this->browser = self::createClient();
        $this->browser->disableReboot();
        // the parser of the library is many times faster than one in PHP, and the pages are well-formed
        $this->browser->useHtml5Parser(false);
        parent::setUp();
        $this->as('controller');
    }

    protected function as(string $role): void
    {
        SignedIn::as($this->browser, $role);
    }

    protected function page(string $path): Crawler
    {
        $crawler = $this->browser->request('GET', $path);
        self::assertSame(200, $this->browser->getResponse()->getStatusCode(), $path);

        return $crawler;
    }

    /**
     * Posts with the token of a page and follows where it leads.
     *
     * @param array<string, mixed> $fields
     * @param array<string, mixed> $files
     */
    protected function post(string $page, string $path, array $fields, array $files = []): Crawler
    {
        $loaded = $this->browser->request('GET', $page);
        $token = $loaded->filter('input[name=_token]')->last()->attr('value');
        // what the form says of the page it stands on goes with it
        $seen = [];
        foreach (
            $loaded->filter('form[action="'.$path.'"]')->filter('input[name=_version], input[name=_seen]') as $input
        ) {
            \assert($input instanceof \DOMElement);
            $seen[$input->getAttribute('name')] = $input->getAttribute('value');
        }
        $crawler = $this->browser->request('POST', $path, ['_token' => $token, ...$seen, ...$fields], $files);

        return $this->browser->getResponse()->isRedirection() ? $this->browser->followRedirect() : $crawler;
    }

    /** A file as a browser would send it. */
    protected static function upload(string $bytes, string $name, string $type = 'text/csv'): UploadedFile
    {
        $path = (string) tempnam(sys_get_temp_dir(), 'nelbix-up');
        file_put_contents($path, $bytes);

        return new UploadedFile($path, $name, $type, null, true);
    }

    /**
     * What a board says after it was posted.
     *
     * @param array<string, mixed> $fields
     */
    protected function postedOnBoard(string $mode, array $fields, string $side = 'payables'): string
    {
        $path = '/TEST/'.$side.'/'.$mode;

        return $this->post($path, $path, [
            'party' => 'payables' === $side ? 'V-1' : 'C-1',
            'date' => '.',
            'bank' => '1000',
            ...$fields,
        ])
            ->filter('.said-done, .said-refused')
            ->text();
    }
}
