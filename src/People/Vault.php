<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Symfony\Component\DependencyInjection\Attribute\Autowire;

/** Seals what the database must keep but not know: secretbox of libsodium, under a key that comes from the application's secret. */
final readonly class Vault
{
    private string $key;

    public function __construct(#[Autowire('%kernel.secret%'), \SensitiveParameter] string $secret)
    {
        $this->key = hash_hkdf('sha256', $secret, \SODIUM_CRYPTO_SECRETBOX_KEYBYTES, 'nelbix second factor');
    }

    public function seal(#[\SensitiveParameter] string $plain): string
    {
        $nonce = random_bytes(\SODIUM_CRYPTO_SECRETBOX_NONCEBYTES);

        return base64_encode($nonce.sodium_crypto_secretbox($plain, $nonce, $this->key));
    }

    public function open(string $sealed): string
    {
        $bytes = (string) base64_decode($sealed, true);
        $nonce = substr($bytes, 0, \SODIUM_CRYPTO_SECRETBOX_NONCEBYTES);
        $box = substr($bytes, \SODIUM_CRYPTO_SECRETBOX_NONCEBYTES);
        $plain =
            \SODIUM_CRYPTO_SECRETBOX_NONCEBYTES === \strlen($nonce)
                ? sodium_crypto_secretbox_open($box, $nonce, $this->key)
                : false;

        return false === $plain
            ? throw new \UnexpectedValueException('This was sealed under another secret (APP_SECRET).')
            : $plain;
    }
}
