<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Banking\FileFormat;
use Nelbix\App\Banking\MakeBankFile;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Goods\DeliveryReader;
use Nelbix\App\Goods\RecordDelivery;
use Nelbix\App\Invoices\KeepDraft;
use Nelbix\App\Invoices\SaveBatch;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\DecideProposal;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\DomCrawler\Crawler;
use Symfony\Component\Routing\Exception\ExceptionInterface;
use Symfony\Component\Routing\RouterInterface;

/**
 * No input is answered with an error page. The pages are walked from the first one; every form and every address with a query that is
 * met is sent with what nobody expects, a field at a time and all at once, and every answer is below 500. A field by itself gets one or two
 * of the odd values, by its name; all of them with NELBIX_FUZZ=all, which takes four times as long. Routes are in two halves, so that two
 * tests do it side by side.
 */
abstract class FuzzCase extends ScreenCase
{
    /** Which half of the routes gets odd values: 0 or 1. */
    abstract protected function half(): int;

    /** What is put into a field by itself. */
    private const ODD = [
        'invalid UTF-8' => "\xC3\x28\xFF",
        'an id of 2^63' => '9223372036854775808',
        'a long number' => '99999999999999999999999999999999.99',
        'a list' => ['x' => ['y' => 'z']],
        'a list of text' => ['x'],
        'very much text' => self::MUCH,
        'sharp s' => 'ßßßßßßßßßßßßßßßßßßßßßßßßßßßßßßßßßßßßßßßß',
        'nothing at all' => null,
    ];

    /** Put in place of 70,000 letters, which no constant holds. */
    private const MUCH = '70,000 letters';

    /** What is put into all fields of a form at once. */
    private const ODD_ALL = [
        '',
        "\0",
        '-1',
        '0',
        '1e308',
        '2026-02-31',
        "'\"><svg onload=x>",
        '９９',
        '999999999999',
        '0.0000000001',
        '../../etc/passwd',
    ];

    /** They end the session, which is no error; the first is the way out, the others are tried by PeopleTest. */
    private const LEFT_OUT = ['sign_out', 'own_sign_out', 'own_elsewhere', 'own_end', 'person_retire'];

    /** How often a route is looked at with other parameters. */
    private const LOOKS = 2;

    /** @var array<string, int> by route and method */
    private array $looked = [];

    /** @var array<string, true> */
    private array $tried = [];

    /** @var list<string> */
    private array $wrong = [];

    private int $requests = 0;

    private string $role = 'controller';

    private function records(): void
    {
        foreach (Side::cases() as $side) {
            $this->invoice($side, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
            self::get(KeepDraft::class)->keep($this->clerk, $side, [
                'party' => Side::Payables === $side ? 'V-1' : 'C-1',
                'lines' => [['account' => '5000', 'amount' => '1.00']],
            ]);
            self::get(SaveBatch::class)->save($this->clerk, $side, ['name' => 'B', 'posting_date' => self::DAY]);
        }
        $this->invoice(Side::Payables, '20000.00');
        $this->invoice(Side::Payables, '10.00', ['kind' => 'credit_note']);
        $item = $this->itemOf($this->invoice(Side::Receivables, '40.00'));
        $this->money(Side::Receivables, 5000, [new PlacementRequest($item, 4000)]);
        $delivery = self::get(DeliveryReader::class)->read($this->clerk, [
            'party' => 'V-1',
            'delivered_on' => self::DAY,
            'lines' => [['account' => '1400', 'quantity' => '2', 'price' => '3.00', 'text' => 'oak']],
        ]);
        self::get(RecordDelivery::class)->record($this->clerk, $delivery);
        $this->db()->executeStatement(
            "UPDATE bank_account SET routing_number = '021000021', account_number = '77', company_number = '1234567890'",
        );
        self::get(SaveParty::class)->save(
            $this->clerk,
            Side::Payables,
            [
                'code' => 'V-2',
                'name' => 'Osprey Rope',
                'method' => 'transfer',
                'default_account' => '5000',
                'routing_number' => '021000021',
                'account_number' => '1111',
            ],
            null,
            true,
        );
        foreach (['transfer' => 'V-2', 'check' => 'V-1', 'all' => 'V-1'] as $method => $party) {
            $this->invoice(Side::Payables, '70.00', [
                'party' => $party,
                'document_date' => '2026-03-01',
                'terms' => 'N30',
            ]);
            ['criteria' => $criteria, 'bankAccountId' => $account] = self::get(CriteriaReader::class)->read(
                $this->clerk,
                ['pay_date' => self::DAY, 'method' => $method],
            );
            $id = self::get(MakeProposal::class)->make($this->clerk, $criteria, $account, $method);
            if ('all' !== $method) {
                self::get(DecideProposal::class)->decide($this->approver, $id, true);
            }
            if ('transfer' === $method) {
                $this->postRun($id);
                self::get(MakeBankFile::class)->ofRun($this->clerk, $id, FileFormat::Ach);
            }
        }
    }

    public function testNothingIsAnsweredWithAnErrorPage(): void
    {
        $this->records();
        $review = $this->db()->fetchOne("SELECT MAX(id) FROM proposal WHERE state = 'review'");
        $this->page('/TEST/payables/proposal/'.$review.'/payment/1');
        if (0 === $this->half()) {
            $this->outside();
        }
        foreach (['controller', 'approver'] as $role) {
            $this->role = $role;
            $this->as($role);
            $this->walk('/TEST');
        }
        $this->beyond();
        self::assertSame([], $this->wrong);
        self::assertGreaterThan(3_000, $this->requests);
    }

    /** The pages before anybody is signed in. */
    private function outside(): void
    {
        $this->browser->getCookieJar()->clear();
        foreach (
            [
                '/sign-in' => ['_username', '_password', '_csrf_token'],
                '/begin' => ['name', 'username', 'password', 'again', '_token'],
                '/link/'.str_repeat('a', 43) => ['password', 'again', '_token'],
                '/second-factor' => ['code', '_token'],
                '/begin/company' => ['name', 'country', '_token'],
                '/'.str_repeat('ß', 40) => ['x'],
            ] as $path => $fields
        ) {
            foreach ([...array_values(self::ODD), ...self::ODD_ALL] as $value) {
                foreach (['GET', 'POST'] as $method) {
                    $this->send($method, $path, array_fill_keys($fields, $value), 'all odd');
                }
            }
        }
    }

    /** What no page of these records leads to: the routes say its address, and the controller's source what it reads. */
    private function beyond(): void
    {
        $this->as($this->role = 'controller');
        $token = (string) $this->browser->request('GET', '/TEST')->filter('input[name=_token]')->last()->attr('value');
        foreach ($this->router()->getRouteCollection() as $name => $route) {
            if (!str_contains($route->getPath(), '{company}') || isset($this->looked[$name])) {
                continue;
            }
            $controller = explode('::', (string) $route->getDefault('_controller'))[0];
            self::assertTrue(class_exists($controller), $controller);
            $source = (string) file_get_contents((string) (new \ReflectionClass($controller))->getFileName());
            preg_match_all("/(?:->(?:get|all)\\(|->(?:request|query), |\\[)'([a-z_]+)'/", $source, $m);
            $fields = ['_token' => $token, ...array_fill_keys(array_unique($m[1]), '1')];
            foreach (array_intersect(['GET', 'POST'], $route->getMethods()) as $method) {
                $this->odd($method, $this->address($route->getPath()), $fields);
            }
        }
    }

    private function address(string $path): string
    {
        $id = fn (string $sql): string => (string) $this->db()->fetchOne($sql);
        $of = match (true) {
            str_contains($path, '/draft/') => "SELECT MIN(id) FROM document WHERE state = 'draft' AND side = 'payables'",
            str_contains($path, '/document/') => "SELECT MIN(id) FROM document WHERE state = 'posted' AND side = 'payables'",
            str_contains($path, '/proposal/') => "SELECT MAX(id) FROM proposal WHERE state = 'review'",
            str_contains($path, '/bank/files/') => 'SELECT MAX(id) FROM bank_file',
            str_contains($path, '/batches/') => 'SELECT MIN(id) FROM batch',
            str_contains($path, '/party/') => "SELECT MIN(id) FROM party WHERE side = 'payables'",
            str_contains($path, '/people/') => "SELECT id FROM app_user WHERE username = 'auditor'",
            default => 'SELECT 1',
        };

        return strtr($path, [
            '{company}' => 'TEST',
            '{side}' => 'payables',
            '{id}' => $id($of),
            '{settlement}' => $id('SELECT MIN(id) FROM settlement'),
            '{payment}' => '1',
            '{page}' => '1',
            '{what}' => 'party',
            '{kind}' => 'accounts',
            '{mode}' => 'payment',
            '{which}' => 'overdue',
            '{number}' => 'VI-26-00001',
        ]);
    }

    private function router(): RouterInterface
    {
        $router = self::getContainer()->get('router');
        \assert($router instanceof RouterInterface);

        return $router;
    }

    /** Breadth first over links, and over the forms of every page. */
    private function walk(string $from): void
    {
        $waiting = [$from];
        while ([] !== $waiting) {
            $address = array_shift($waiting);
            $route = $this->route($address, 'GET');
            $query = (string) parse_url($address, \PHP_URL_QUERY);
            parse_str($query, $named);
            $key = $this->role.' '.$route.' '.implode(',', array_keys($named));
            if (null === $route || ($this->looked[$key] ?? 0) >= self::LOOKS) {
                continue;
            }
            $this->looked[$key] = ($this->looked[$key] ?? 0) + 1;
            $this->looked[$route] = 1;
            $page = $this->send('GET', $address, []);
            if (null === $page) {
                continue;
            }
            foreach ($page->filter('a[href^="/"], tr[data-href], [hx-get]') as $link) {
                \assert($link instanceof \DOMElement);
                $href =
                    $link->getAttribute('href') ?: ($link->getAttribute('data-href') ?: $link->getAttribute('hx-get'));
                $waiting[] = $href;
                $this->odd('GET', $href, []);
            }
            foreach ($page->filter('form') as $form) {
                \assert($form instanceof \DOMElement);
                $this->form($form, $address);
            }
        }
    }

    /** Sends a form with odd fields to each address it may go to. */
    private function form(\DOMElement $form, string $page): void
    {
        $fields = [];
        $inside = new Crawler($form);
        foreach (['input', 'select', 'textarea', 'button'] as $tag) {
            foreach ($inside->filter($tag.'[name]') as $input) {
                \assert($input instanceof \DOMElement);
                $fields[$input->getAttribute('name')] = $input->getAttribute('value');
            }
        }
        $own = $form->getAttribute('action') ?: $page;
        $ways = [[strtoupper($form->getAttribute('method') ?: 'GET'), $own]];
        foreach (['hx-post' => 'POST', 'hx-get' => 'GET'] as $attribute => $method) {
            foreach ([$form, ...iterator_to_array($inside->filter('['.$attribute.']'))] as $element) {
                \assert($element instanceof \DOMElement);
                if ($element->hasAttribute($attribute)) {
                    $ways[] = [$method, $element->getAttribute($attribute)];
                }
            }
        }
        foreach ($inside->filter('[formaction]') as $button) {
            \assert($button instanceof \DOMElement);
            $ways[] = ['POST', $button->getAttribute('formaction')];
        }
        foreach ($ways as [$method, $address]) {
            $this->odd($method, $address, $fields);
        }
    }

    /** @param array<string, string> $fields by the names they have in the form */
    private function odd(string $method, string $address, array $fields): void
    {
        parse_str((string) parse_url($address, \PHP_URL_QUERY), $query);
        $path = (string) parse_url($address, \PHP_URL_PATH);
        $route = $this->route($path, $method);
        if (null === $route || \in_array($route, self::LEFT_OUT, true)) {
            return;
        }
        $this->looked[$route] = 1;
        if (crc32($route) % 2 !== $this->half()) {
            return;
        }
        foreach ($query as $name => $value) {
            $fields[$name] ??= \is_string($value) ? $value : '';
        }
        $names = array_values(
            array_filter(array_map(strval(...), array_keys($fields)), static fn (string $n): bool => '_token' !== $n),
        );
        // one row of a table stands for the others
        $names = array_values(array_unique(preg_replace('/\[\d+\]/', '[0]', $names) ?? []));
        foreach ($names as $name) {
            $key = $method.' '.$route.' '.$name;
            if (isset($this->tried[$key])) {
                continue;
            }
            $this->tried[$key] = true;
            foreach (self::oddFor($key) as $what => $value) {
                $this->send($method, $path, $this->with($fields, $name, $value), $what.' in '.$name);
            }
        }
        $key = $method.' '.$route;
        if ([] !== $names && !isset($this->tried[$key])) {
            $this->tried[$key] = true;
            foreach (self::oddForAll($key) as $value) {
                $all = $fields;
                foreach ($names as $name) {
                    $all = ['_token' => $fields['_token'] ?? ''] + $all;
                    $all[$name] = $value;
                }
                $this->send(
                    $method,
                    $path,
                    $this->with($all),
                    'all '.json_encode($value, \JSON_PARTIAL_OUTPUT_ON_ERROR),
                );
            }
        }
    }

    /** @return array<string, mixed> two of the odd values, the same ones each time; all of them when all are asked for */
    private static function oddFor(string $field): array
    {
        if ('all' === getenv('NELBIX_FUZZ')) {
            return self::ODD;
        }
        $kinds = array_keys(self::ODD);
        $first = crc32($field) % \count($kinds);

        // what changes something is tried twice as much as what only asks
        $second = str_starts_with($field, 'GET ') ? $first : ($first + 3) % \count($kinds);

        return array_intersect_key(self::ODD, [$kinds[$first] => true, $kinds[$second] => true]);
    }

    /** @return list<mixed> what is put into all fields of a form at once: every other value, or all of them */
    private static function oddForAll(string $form): array
    {
        $all = [...self::ODD_ALL, ...array_values(self::ODD)];
        if ('all' === getenv('NELBIX_FUZZ')) {
            return $all;
        }
        $first = crc32($form) % 2;

        return array_values(array_filter($all, static fn (int $n): bool => $n % 2 === $first, \ARRAY_FILTER_USE_KEY));
    }

    /**
     * @param array<int|string, mixed> $fields by the names they have in the form, such as lines[0][amount]
     *
     * @return array<string, mixed> as PHP reads them
     */
    private function with(array $fields, ?string $name = null, mixed $value = null): array
    {
        if (null !== $name) {
            $fields[$name] = $value;
        }
        $read = [];
        foreach ($fields as $key => $of) {
            if (null === $of) {
                continue;
            }
            $of = self::MUCH === $of ? str_repeat('ab ', 23_334) : $of;
            $at = &$read;
            $parts = explode('[', str_replace(']', '', (string) $key));
            foreach ($parts as $part) {
                if (!\is_array($at)) {
                    $at = [];
                }
                if ('' === $part) {
                    $at = &$at[];
                } else {
                    $at = &$at[$part];
                }
            }
            $at = $of;
            unset($at);
        }

        return $read;
    }

    /** @param array<string, mixed> $fields */
    private function send(string $method, string $path, array $fields, string $what = ''): ?Crawler
    {
        ++$this->requests;
        $this->db()->executeStatement('SAVEPOINT fuzz');
        $page = $this->browser->request($method, $path, $fields);
        $response = $this->browser->getResponse();
        if ($response->getStatusCode() >= 500) {
            $this->wrong[] = \sprintf('%s %s, %s: %d', $method, $path, $what, $response->getStatusCode());
        }
        if (str_contains((string) $response->headers->get('Location'), '/sign-in')) {
            $this->as($this->role);
        }
        if ('' !== $what) {
            $this->db()->executeStatement('ROLLBACK TO SAVEPOINT fuzz');
        }

        return 200 === $response->getStatusCode() ? $page : null;
    }

    private function route(string $address, string $method): ?string
    {
        $router = $this->router();
        $context = clone $router->getContext();
        $context->setMethod($method);
        $router->setContext($context);
        try {
            $route = $router->match((string) parse_url($address, \PHP_URL_PATH))['_route'];
        } catch (ExceptionInterface) {
            return null;
        }

        return \is_string($route) ? $route : null;
    }
}
