<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Outbox\SendLetter;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\Letters;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;
use PHPUnit\Framework\Attributes\DataProvider;
use Symfony\Component\Process\Process;
use Symfony\Component\Yaml\Yaml;

/** What a customer is told of its money, in its language. */
final class LetterTest extends ScreenCase
{
    /** @param array<string, string> $more */
    private function customer(array $more): void
    {
        $id = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'C-1'");
        self::get(SaveParty::class)->save(
            $this->clerk,
            Side::Receivables,
            [
                'code' => 'C-1',
                'name' => 'Gannet Sailing School',
                'terms' => '2-10-N30',
                'default_account' => '4000',
                ...$more,
            ],
            $id,
        );
    }

    /** What stands on the paper, in one line. */
    private function letter(int $document): string
    {
        $this->browser->request('GET', "/TEST/receivables/document/$document/letter.pdf");
        $path = (string) tempnam(sys_get_temp_dir(), 'nelbix-letter');
        file_put_contents($path, (string) $this->browser->getResponse()->getContent());
        $text = (new Process(['pdftotext', '-layout', $path, '-']))->mustRun()->getOutput();
        unlink($path);

        return trim((string) preg_replace('/\s+/u', ' ', $text));
    }

    private function receipt(): int
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '1000.00'));

        return $this->money(
            Side::Receivables,
            103000,
            [new PlacementRequest($item, 100000)],
            [new AdjustmentRequest($item, AdjustmentKind::Discount, -2000)],
        );
    }

    public function testALetterSaysWhatWasPlacedOnWhatAndWhatHasNoPlace(): void
    {
        $text = $this->letter($this->receipt());
        foreach (
            ['We received 1,030.00 USD on 15 Jun 2026', '1,000.00', '20.00', 'Not placed yet: 50.00 USD'] as $said
        ) {
            self::assertStringContainsString($said, $text);
        }
        self::assertStringNotContainsString('Let go', $text, 'a column that is empty is not there');
    }

    public function testItIsInTheCustomersLanguage(): void
    {
        $this->customer(['language' => 'de']);
        $text = $this->letter($this->receipt());
        foreach (
            ['Ihre Zahlung', 'Wir haben am 15.06.2026 1.030,00 USD erhalten', 'Noch nicht zugeordnet: 50,00 USD'] as $said
        ) {
            self::assertStringContainsString($said, $text);
        }
        self::assertStringContainsString(
            'The language is en, de, es, fr.',
            self::said(fn () => $this->customer(['language' => 'xx'])),
        );
    }

    public function testItLiesInTheOutboxAndIsInTheHistory(): void
    {
        $receipt = $this->receipt();
        $company =
            self::get(\Doctrine\ORM\EntityManagerInterface::class)->find(Company::class, $this->clerk->companyId) ??
            self::fail();
        $send = fn (): string => self::said(
            fn () => self::get(SendLetter::class)->send($this->clerk, $company, $receipt),
        );
        self::assertStringContainsString('No address is known for Gannet Sailing School', $send());
        $this->customer(['email' => 'books@gannet.example']);
        self::assertSame('done', $send());
        self::assertSame('books@gannet.example', $this->db()->fetchOne('SELECT recipient FROM outbox'));
        self::assertSame(
            1,
            (int) $this->db()->fetchOne(
                "SELECT COUNT(*) FROM history WHERE action = 'letter sent' AND subject_id = ?",
                [$receipt],
            ),
        );
    }

    public function testNobodyIsToldOfMoneyThatIsTheirsNot(): void
    {
        foreach (
            [
                $this->invoice(Side::Receivables, '10.00'),
                $this->money(Side::Payables, 500, kind: \Nelbix\Core\Ledger\DocumentKind::Payment),
            ] as $other
        ) {
            $this->browser->request('GET', "/TEST/receivables/document/$other/letter.pdf");
            self::assertSame(404, $this->browser->getResponse()->getStatusCode());
        }
    }

    /** @return iterable<string, array{string}> */
    public static function languages(): iterable
    {
        foreach (array_diff(array_keys(Letters::LANGUAGES), ['en']) as $language) {
            yield $language => [$language];
        }
    }

    /** Whatever a letter says in English has its words in each language, with the same places for what is filled in. */
    #[DataProvider('languages')]
    public function testEveryWordOfALetterIsTranslated(string $language): void
    {
        $root = \dirname(__DIR__, 2);
        $known = Yaml::parseFile("$root/translations/letters.$language.yaml");
        self::assertIsArray($known);
        $said = [];
        foreach (glob("$root/templates/*/*_pdf.html.twig") ?: [] as $file) {
            preg_match_all("/'([^']+)'\|say\(/", (string) file_get_contents($file), $m);
            preg_match_all("/\([a-z]+ \? '([^']+)' : '([^']+)'\)\|say\(/", (string) file_get_contents($file), $either);
            $said = [...$said, ...$m[1], ...$either[1], ...$either[2]];
        }
        self::assertContains('Your payment', $said);
        self::assertSame([], array_values(array_diff(array_unique($said), array_keys($known))));
        $places = static function (string $text): array {
            preg_match_all('/%\w+%/', $text, $m);
            sort($m[0]);

            return $m[0];
        };
        foreach ($known as $english => $words) {
            self::assertSame($places((string) $english), $places((string) $words), (string) $english);
        }
    }
}
