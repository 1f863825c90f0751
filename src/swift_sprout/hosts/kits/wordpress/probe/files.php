<?php
/**
 * Stands between modules and the files of the machine while things are tried: what is read is read, and whatever would
 * be written, moved or taken away is let pass without a trace.
 */

namespace SwiftSprout;

/** In the place of PHP's own wrapper of files; what cannot be kept from the disk this way is not tried at all. */
final class Files {
	private const WRITES = '/[waxc+]/';

	/** Whether anything was written since somebody last asked; what is read afterwards may be wrong. */
	public static bool $written = false;

	/** @var resource|null */
	public $context;
	/** @var resource|false */
	private $held = false;

	/** From now on nothing reaches the disk; errors that PHP itself logs neither. */
	public static function keep(): void {
		static $kept = false;
		if ( ! $kept ) {
			$kept = true;
			ini_set( 'error_log', '/dev/null' );
			self::stand_between();
		}
	}

	public function stream_open( string $path, string $mode, int $options, ?string &$opened ): bool {
		if ( preg_match( self::WRITES, $mode ) ) {
			self::$written = true;
			$this->held    = self::real( static fn() => self::copied( $path, $mode ) );
			return true;
		}
		$quiet      = ! ( $options & STREAM_REPORT_ERRORS );
		$this->held = self::real( static fn() => $quiet ? @fopen( $path, $mode, (bool) ( $options & STREAM_USE_PATH ) ) : fopen( $path, $mode, (bool) ( $options & STREAM_USE_PATH ) ) );
		return false !== $this->held;
	}

	public function stream_read( int $count ) {
		return fread( $this->held, $count );
	}

	public function stream_write( string $text ): int {
		return (int) fwrite( $this->held, $text );
	}

	public function stream_eof(): bool {
		return feof( $this->held );
	}

	public function stream_tell(): int {
		return (int) ftell( $this->held );
	}

	public function stream_seek( int $offset, int $from = SEEK_SET ): bool {
		return 0 === fseek( $this->held, $offset, $from );
	}

	public function stream_stat() {
		return fstat( $this->held );
	}

	public function stream_flush(): bool {
		return true;
	}

	public function stream_lock( int $how ): bool {
		return true;
	}

	public function stream_truncate( int $size ): bool {
		return ftruncate( $this->held, $size );
	}

	public function stream_set_option( int $option, int $first, ?int $second ): bool {
		return false;
	}

	public function stream_metadata( string $path, int $option, $value ): bool {
		return self::$written = true;
	}

	public function stream_close(): void {
		fclose( $this->held );
	}

	public function url_stat( string $path, int $flags ) {
		return self::real( static fn() => $flags & STREAM_URL_STAT_LINK ? @lstat( $path ) : @stat( $path ) );
	}

	public function unlink( string $path ): bool {
		return self::$written = true;
	}

	public function rename( string $from, string $to ): bool {
		return self::$written = true;
	}

	public function mkdir( string $path, int $mode, int $options ): bool {
		return self::$written = true;
	}

	public function rmdir( string $path, int $options ): bool {
		return self::$written = true;
	}

	public function dir_opendir( string $path, int $options ): bool {
		$this->held = self::real( static fn() => @opendir( $path ) );
		return false !== $this->held;
	}

	public function dir_readdir() {
		return readdir( $this->held );
	}

	public function dir_rewinddir(): bool {
		rewinddir( $this->held );
		return true;
	}

	public function dir_closedir(): bool {
		closedir( $this->held );
		return true;
	}

	/** What a file holds, in memory, where it is written on. */
	private static function copied( string $path, string $mode ) {
		$copy = fopen( 'php://memory', 'w+' );
		if ( ! str_starts_with( $mode, 'w' ) && is_file( $path ) ) {
			fwrite( $copy, (string) file_get_contents( $path ) );
			if ( ! str_starts_with( $mode, 'a' ) ) {
				rewind( $copy );
			}
		}
		return $copy;
	}

	/** Do something with PHP's own wrapper. */
	private static function real( callable $do ) {
		stream_wrapper_restore( 'file' );
		try {
			return $do();
		} finally {
			self::stand_between();
		}
	}

	private static function stand_between(): void {
		stream_wrapper_unregister( 'file' );
		stream_wrapper_register( 'file', self::class );
	}
}
