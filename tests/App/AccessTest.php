<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Platform\Needs;
use Nelbix\Core\Ledger\Side;
use PHPUnit\Framework\Attributes\DataProvider;

/** Each role sees and may do only its own, on the server. */
final class AccessTest extends ScreenCase
{
    /**
     * @return iterable<string, array{string, list<string>}> path => roles that may; everybody else gets 403. Source: product.md,
     *                                                       Who uses it
     */
    public static function pages(): iterable
    {
        $p = ['payables', 'buyer', 'approver', 'controller', 'auditor'];
        $r = ['receivables', 'approver', 'controller', 'auditor'];
        $all = ['payables', 'receivables', 'receiver', 'buyer', 'approver', 'controller', 'auditor'];
        $ledger = ['payables', 'receivables', 'approver', 'controller', 'auditor'];
        yield 'today' => ['/TEST', $all];
        yield 'payables items' => ['/TEST/payables/items', $p];
        yield 'receivables items' => ['/TEST/receivables/items', $r];
        yield 'vendors' => ['/TEST/payables/parties', $p];
        yield 'customers' => ['/TEST/receivables/parties', $r];
        yield 'payables documents' => ['/TEST/payables/documents', $p];
        yield 'payables aging' => ['/TEST/payables/aging', $p];
        yield 'receivables aging' => ['/TEST/receivables/aging', $r];
        yield 'enter vendor invoice' => ['/TEST/payables/invoice', ['payables', 'controller']];
        yield 'enter customer invoice' => ['/TEST/receivables/invoice', ['receivables', 'controller']];
        yield 'enter receipt' => ['/TEST/receivables/receipt', ['receivables', 'controller']];
        yield 'add vendor' => ['/TEST/payables/party', ['payables', 'controller']];
        yield 'proposals' => ['/TEST/payables/proposals', $p];
        yield 'what is due' => ['/TEST/payables/proposal', $p];
        yield 'pay by hand' => ['/TEST/payables/payment', ['payables', 'controller']];
        yield 'refund of a vendor' => ['/TEST/payables/refund', ['payables', 'controller']];
        yield 'settle payables' => ['/TEST/payables/settle', ['payables', 'controller']];
        yield 'settle receivables' => ['/TEST/receivables/settle', ['receivables', 'controller']];
        yield 'bank' => ['/TEST/bank', $ledger];
        yield 'tie-out' => ['/TEST/close/tie-out', $ledger];
        yield 'trial balance' => ['/TEST/close/trial-balance', $ledger];
        yield 'settings' => ['/TEST/setup', ['controller', 'auditor']];
        yield 'periods' => ['/TEST/close', $ledger];
        yield 'accounts' => ['/TEST/setup/accounts', $ledger];
        yield 'terms' => ['/TEST/setup/terms', $ledger];
        yield 'deliveries' => [
            '/TEST/deliveries',
            ['payables', 'receiver', 'buyer', 'approver', 'controller', 'auditor'],
        ];
        yield 'orders' => ['/TEST/orders', ['payables', 'receiver', 'buyer', 'approver', 'controller', 'auditor']];
        yield 'order something' => ['/TEST/orders/new', ['buyer', 'controller']];
        yield 'record delivery' => ['/TEST/deliveries/new', ['receiver', 'controller']];
        yield 'pick a vendor for a delivery' => ['/TEST/deliveries/pick/party?q=F', ['receiver', 'controller']];
        yield 'search' => ['/TEST/search?q=Fenwick', $all];
    }

    /** @param list<string> $may */
    #[DataProvider('pages')]
    public function testPages(string $path, array $may): void
    {
        foreach (['payables', 'receivables', 'receiver', 'buyer', 'approver', 'controller', 'auditor'] as $role) {
            $this->as($role);
            $this->browser->request('GET', $path);
            self::assertSame(
                \in_array($role, $may, true) ? 200 : 403,
                $this->browser->getResponse()->getStatusCode(),
                $role.' on '.$path,
            );
            $policy = (string) $this->browser->getResponse()->headers->get('Content-Security-Policy');
            self::assertStringContainsString("script-src 'self'", $policy);
            self::assertStringNotContainsString('unsafe', $policy);
        }
    }

    public function testEveryActionOfACompanySaysWhatItNeeds(): void
    {
        $router = self::getContainer()->get('router');
        \assert($router instanceof \Symfony\Component\Routing\RouterInterface);
        $count = 0;
        foreach ($router->getRouteCollection() as $name => $route) {
            if (!str_contains($route->getPath(), '{company}')) {
                continue;
            }
            [$class, $method] = explode('::', (string) $route->getDefault('_controller'));
            self::assertCount(
                1,
                (new \ReflectionMethod($class, $method))->getAttributes(Needs::class),
                $name.' is closed: it says nothing of what it needs',
            );
            ++$count;
        }
        self::assertGreaterThan(30, $count);
    }

    public function testASlashTooManyLeadsToThePage(): void
    {
        SignedIn::as($this->browser, 'payables');
        $this->browser->request('GET', '/TEST/');
        self::assertTrue($this->browser->getResponse()->isRedirect('http://localhost/TEST'));
        $this->browser->request('GET', '/TEST/payables/aging/');
        $this->browser->followRedirect();
        self::assertSame(200, $this->browser->getResponse()->getStatusCode());
    }

    public function testChangesNeedTheToken(): void
    {
        $this->as('controller');
        $this->browser->request('POST', '/TEST/payables/invoice', [
            'party' => 'V-1',
            'number' => '1',
            'document_date' => '.',
            'lines' => [['account' => '5000', 'amount' => '10']],
        ]);
        self::assertSame(403, $this->browser->getResponse()->getStatusCode());
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document'));
    }

    /** Every change of every route: without the token it is refused, whoever sends it and whatever it names. */
    public function testNoChangeOfAnyRouteWithoutTheToken(): void
    {
        $this->as('controller');
        $router = self::getContainer()->get('router');
        \assert($router instanceof \Symfony\Component\Routing\RouterInterface);
        $tried = 0;
        foreach ($router->getRouteCollection() as $name => $route) {
            if (!str_contains($route->getPath(), '{company}') || !\in_array('POST', $route->getMethods(), true)) {
                continue;
            }
            $path = (string) preg_replace(
                ['/\{company\}/', '/\{side\}/', '/\{kind\}/', '/\{mode\}/', '/\{action\}/', '/\{\w+\}/'],
                ['TEST', 'receivables', 'accounts', 'receipt', 'prepayment', '1'],
                $route->getPath(),
            );
            $this->browser->request('POST', $path, ['_token' => 'not the one']);
            self::assertSame(403, $this->browser->getResponse()->getStatusCode(), $name.' '.$path);
            ++$tried;
        }
        self::assertGreaterThan(80, $tried);
    }

    public function testEveryPageSaysHowABrowserIsToTreatIt(): void
    {
        $this->as('controller');
        $this->browser->request('GET', '/TEST');
        $headers = $this->browser->getResponse()->headers;
        self::assertStringContainsString('no-store', (string) $headers->get('Cache-Control'));
        self::assertSame('nosniff', $headers->get('X-Content-Type-Options'));
        self::assertSame('DENY', $headers->get('X-Frame-Options'));
        self::assertFalse($headers->has('Strict-Transport-Security'), 'not without TLS');
        $this->browser->request('GET', 'https://localhost/TEST');
        self::assertSame('max-age=31536000', $this->browser->getResponse()->headers->get('Strict-Transport-Security'));
    }

    public function testAuditorChangesNothingAndStrangersSeeNothing(): void
    {
        $this->as('auditor');
        foreach (
            [
                '/TEST/payables/invoice',
                '/TEST/receivables/receipt',
                '/TEST/payables/proposal',
                '/TEST/setup',
                '/TEST/close/lock',
                '/TEST/payables/party/save',
            ] as $path
        ) {
            $this->browser->request('POST', $path);
            self::assertSame(403, $this->browser->getResponse()->getStatusCode(), $path);
        }
        $this->browser->request('GET', '/NOPE/payables/items');
        self::assertSame(404, $this->browser->getResponse()->getStatusCode());
        self::ensureKernelShutdown();
    }

    public function testSignInIsAskedOfStrangersAndTheDemoListIsNot(): void
    {
        $this->browser->restart(); // signed in as nobody
        $this->browser->request('GET', '/TEST');
        self::assertResponseRedirects();
        $this->browser->request('GET', '/sign-in');
        self::assertResponseIsSuccessful();
        self::assertSelectorNotExists('section[aria-label="Demo users"]');
    }

    public function testAnotherCompanysRecordsAreNotFound(): void
    {
        $foreign = $this->invoice(Side::Payables, '10.00');
        $this->makeCompany('OTHER');
        $this->as('controller');
        $this->browser->request('GET', '/OTHER/payables/document/'.$foreign);
        self::assertSame(404, $this->browser->getResponse()->getStatusCode());
        $this->browser->request('GET', '/TEST/payables/document/'.$foreign);
        self::assertSame(200, $this->browser->getResponse()->getStatusCode());
        $this->browser->request('GET', '/TEST/receivables/document/'.$foreign);
        self::assertSame(404, $this->browser->getResponse()->getStatusCode(), 'the side is checked as well');
    }

    public function testAScriptTagIsShownAsText(): void
    {
        $tag = '<script>alert(1)</script>';
        $id = $this->invoice(Side::Receivables, '10.00', [
            'description' => $tag,
            'lines' => [['account' => '4000', 'amount' => '10.00', 'text' => $tag]],
        ]);
        $this->as('controller');
        foreach (
            [
                '/TEST/receivables/document/'.$id,
                '/TEST/receivables/items?party='.urlencode($tag),
                '/TEST/search?q='.urlencode($tag),
                '/TEST/payables/aging?as_of='.urlencode($tag).'&buckets='.urlencode($tag),
            ] as $path
        ) {
            $this->browser->request('GET', $path);
            self::assertSame(200, $this->browser->getResponse()->getStatusCode(), $path);
            self::assertStringNotContainsString($tag, (string) $this->browser->getResponse()->getContent(), $path);
        }
        $this->browser->request('GET', '/TEST/receivables/document/'.$id.'/invoice.pdf');
        self::assertStringStartsWith('%PDF', (string) $this->browser->getResponse()->getContent());
    }
}
