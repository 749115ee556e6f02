"""The projects that ``bench.truth_node`` fetches by name: those that readers and knowledge were adjusted on, and those that were not.

The second list was found by going through 15,000 packages of the registry for texts that name what went between these lines.
"""

from __future__ import annotations

CORPUS = {
    "tuned": (
        "node-red@0.9.1 irc@0.5.2 nedb@1.8.0 mysql@2.11.1 actionhero@15 jsdoc@3.4.3 statsd@0.8.6 sinopia@1.4.0 ts-node@10.9.2 geddy@13.0.8 "
        "npm@3.10.10 pm2@2.10.4 serverless@1.83.3 node-red@0.8.1 node-red@0.11.2 linvodb3@3 nedb@0.10.5 irc@0.3.12 mysql@2.5.5 jsdoc@3.3.3 "
        "cassandra-driver@3.0.2 cookie-sessions@0.0.2 simplecrypt@0.1.0 node-xmpp@0.3.2 tedious@1.15.0 restify@4.3.4 azure-cli@0.10.20 "
        "express@4.18.2 ftp-get@0.3.1 mongo2mysql@0.0.0 "
    ).split(),
    "apart": (
        "aescipher@0.0.2 antisocial-encryption@1.0.11 axon-secure@2.0.7 azure-pipelines-tasks-azurermdeploycommon-v3@3.208.0 "
        "azure-pipelines-tasks-azurermdeploycommon@3.208.0 azure-pipelines-tasks-webdeployment-common-v4@4.210.0 bflow-mysql@0.0.2 "
        "blear.node.encryption@1.1.3 blueoak-server@2.13.1 browserify-cipher@1.0.1 connect-mysql-session-store@3.0.1 crypter@0.2.2 "
        "cryptic@0.1.2 crypto-flavor@1.0.4 dota2-bot@1.2.0 easy-session-file-store@1.2.1 edp-webserver@1.2.11 elasticsearch-watchdog@0.1.6 "
        "emailjs-strict@0.3.8 encrypto@1.0.6 es-mongodb-sync@2.1.35 expreserver@1.2.3 express-gateway-elemen-version@1.0.0 "
        "express-routescan@0.2.1 express-serialize@0.0.2 fbgraphapi@0.5.1 framed-msgpack-rpc@1.1.13 freedom-social-xmpp@0.4.6 "
        "gg-logger@1.0.3 grunt-copy-bower@0.1.0 grunt-html-builder@0.6.7 gulp-strip-line@0.0.1 irc-upd@0.11.0 iwcrypto@1.1.2 jscrypt@1.1.1 "
        "json-encrypt@2.1.1 jwt-express-login@1.4.4 koa-jwt-access@0.0.5 koa-proxy2@0.11.0 koa-webpack-dev@1.0.6 lxj-crypto@0.0.1 "
        "matrix-org-irc@3.0.0 mem-cli@0.0.4 memcachedjs@0.0.1 mongo-edit@0.6.0 mongo-rest-query-helper@1.0.0 mongo-sites-api@0.7.0 "
        "mongodatatable@1.0.0 mongoose-troop@0.0.8 mongoose-utilities@0.1.1 mysql-alpha@2.0.0-alpha9 mysql8.0@1.1.2 nedb-server@1.8.1 "
        "node-bandwidth@4.0.0 node-dirutils@0.0.1 node-discovery@0.2.1-1 node-mocks-http-self@1.6.8 node-moog@1.2.9 node-my-config@3.1.2 "
        "node-mysql-dbdeploy@1.0.2 node-red-contrib-confluent@0.0.6 node-red-habanero@1.1.20 node-s3-encryption-client@0.0.2 "
        "node-spawn@0.0.7 node-stackify@0.0.5 node-vironlib@1.7.3 node-workflow-pg-backend@0.1.0 node-workflow-redis-backend@0.1.0 "
        "node-xcs@0.1.8 node-xmpp-tls-connect@1.0.1 node-yoctopuce@0.0.5 nssocket@0.6.0 object-encrypter@0.1.3 "
        "passport-passwordless-fixed@1.0.2 password-encrypt-util@1.0.3 pilmee-mysql@1.0.2 popularcrypto@0.0.3 "
        "react-native-local-mongodb@4.0.0 reichat-server@1.0.5 secure-storage@0.2.1 session-file-store-unofficial@0.2.1-a "
        "shopify-ftp2@2.1.0 simple-crypto@0.0.5 statsd-socket.io@0.0.6 unete-cli@1.8.5 uppy-server@0.13.4 url-crypt@1.2.1 "
        "wendyhao-koa-jwt@1.0.1 "
    ).split(),
}
