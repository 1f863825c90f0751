<?php
/**
 * Stands between modules and the files of the machine while things are tried: what is written, moved or taken away is so
 * for this run alone, in memory, and read from there.
 */

namespace SwiftSprout;

/** In the place of PHP's own wrapper of files; what cannot be kept from the disk this way is not tried at all. */
final class Files {
	private const WRITES = '/[waxc+]/';

	/** Whether anything was written since somebody last asked. */
	public static bool $written = false;

	/** @var array<string, ?string> What files hold by now; null for one that was taken away. */
	private static array $now = array();
	/** @var array<string, true> Folders that were made. */
	private static array $folders = array();

	/** @var resource|null */
	public $context;
	/** @var resource|false */
	private $held = false;
	private string $written_to = '';

	/** From now on nothing reaches the disk; errors that PHP itself logs neither. */
	public static function keep(): void {
		static $kept = false;
		if ( ! $kept ) {
			$kept = true;
			ini_set( 'error_log', '/dev/null' );
			foreach ( array_intersect( array( 'http', 'https', 'ftp', 'ftps', 'compress.zlib', 'compress.bzip2', 'phar' ), stream_get_wrappers() ) as $reaching ) {
				stream_wrapper_unregister( $reaching );
			}
			self::stand_between();
		}
	}

	public function stream_open( string $path, string $mode, int $options, ?string &$opened ): bool {
		$path = self::plain( $path );
		if ( preg_match( self::WRITES, $mode ) ) {
			self::changed();
			$this->written_to = $path;
			$this->held       = self::copied( $path, $mode );
			return false !== $this->held;
		}
		if ( array_key_exists( $path, self::$now ) ) {
			$this->held = null === self::$now[ $path ] ? false : self::copied( $path, 'r' );
			return false !== $this->held;
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
		return self::changed();
	}

	public function stream_close(): void {
		if ( '' !== $this->written_to ) {
			self::$now[ $this->written_to ] = (string) stream_get_contents( $this->held, -1, 0 );
		}
		fclose( $this->held );
	}

	public function url_stat( string $path, int $flags ) {
		$path = self::plain( $path );
		if ( array_key_exists( $path, self::$now ) ) {
			$like = null === self::$now[ $path ] ? false : self::real( static fn() => stat( __FILE__ ) );
			return $like ? array( 7 => strlen( self::$now[ $path ] ), 'size' => strlen( self::$now[ $path ] ) ) + $like : false;
		}
		if ( isset( self::$folders[ $path ] ) ) {
			return self::real( static fn() => stat( __DIR__ ) );
		}
		return self::real( static fn() => $flags & STREAM_URL_STAT_LINK ? @lstat( $path ) : @stat( $path ) );
	}

	public function unlink( string $path ): bool {
		self::$now[ self::plain( $path ) ] = null;
		return self::changed();
	}

	public function rename( string $from, string $to ): bool {
		self::$now[ self::plain( $to ) ]   = (string) stream_get_contents( self::copied( self::plain( $from ), 'r' ) );
		self::$now[ self::plain( $from ) ] = null;
		return self::changed();
	}

	public function mkdir( string $path, int $mode, int $options ): bool {
		self::$folders[ self::plain( $path ) ] = true;
		return self::changed();
	}

	public function rmdir( string $path, int $options ): bool {
		return self::changed();
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

	/** What a file holds, in memory; false for a folder. */
	private static function copied( string $path, string $mode ) {
		$held = self::$now[ $path ] ?? self::real( static fn() => is_dir( $path ) ? false : (string) ( is_file( $path ) ? file_get_contents( $path ) : '' ) );
		if ( false === $held ) {
			return false;
		}
		$copy = fopen( 'php://memory', 'w+' );
		if ( ! str_starts_with( $mode, 'w' ) ) {
			fwrite( $copy, $held );
			if ( ! str_starts_with( $mode, 'a' ) ) {
				rewind( $copy );
			}
		}
		return $copy;
	}

	/** What PHP remembers of files holds no more. */
	private static function changed(): bool {
		clearstatcache();
		return self::$written = true;
	}

	private static function plain( string $path ): string {
		return rtrim( str_starts_with( $path, 'file://' ) ? substr( $path, 7 ) : $path, '/' );
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
