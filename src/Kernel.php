<?php

declare(strict_types=1);

namespace Nelbix\App;

use Symfony\Bundle\FrameworkBundle\Kernel\MicroKernelTrait;
use Symfony\Component\HttpKernel\Kernel as BaseKernel;

final class Kernel extends BaseKernel
{
    use MicroKernelTrait;

    public function getCacheDir(): string
    {
        return ($_SERVER['NELBIX_CACHE'] ?? $this->getProjectDir().'/var/cache').'/'.$this->environment;
    }

    public function getLogDir(): string
    {
        return $_SERVER['NELBIX_LOG'] ?? $this->getProjectDir().'/var/log';
    }
}
