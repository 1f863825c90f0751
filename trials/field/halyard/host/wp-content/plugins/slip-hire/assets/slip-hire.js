jQuery( function ( $ ) {
	$( '.slip-hires form' ).on( 'change', 'input', function () {
		$.post( slipHire.url, { action: 'slip_hire_free', slip: 1, _ajax_nonce: slipHire.nonce }, function ( answer ) {
			$( '.slip-hires button' ).prop( 'disabled', ! answer.data.free );
		} );
	} );
} );
